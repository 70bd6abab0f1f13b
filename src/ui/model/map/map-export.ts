import type { RecordType } from '@/core/model';
import { KIND_NAMES } from '@/core/values';
import { COLOURS, FONTS } from '@/ui/theme/tokens';
import { type MapLayout, type MapLine, pathOf } from './map-shape';

const escaped = (text: string): string =>
  text.replace(/[&<>"]/g, (mark) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[mark]!);

const strokeOf = (kind: MapLine['kind'], isRequired: boolean): string =>
  kind === 'open'
    ? 'stroke-width="2.4" stroke-linecap="round" stroke-dasharray="0.1 5"'
    : `stroke-width="1.4"${isRequired ? '' : ' stroke-dasharray="5 4"'}`;

/** The map as a picture that stands alone. */
export function mapSvg({ boxes, lines, width, height }: MapLayout): string {
  const drawn = [
    ...lines.map(
      ({
        points,
        isRequired,
        kind,
        name,
        label,
      }) => `<path d="${pathOf(points)}" fill="none" stroke="${COLOURS.slate}" ${strokeOf(kind, isRequired)}/>
<text x="${label.x}" y="${label.y + 4}" text-anchor="middle" font-size="11" fill="${COLOURS.slate}">${escaped(name)}</text>`,
    ),
    ...boxes.map(
      ({ x, y, width: wide, height: high, name, fields, isBridge }) =>
        `<rect x="${x}" y="${y}" width="${wide}" height="${high}" rx="${isBridge ? high / 2 : 4}" fill="${COLOURS.sheet}" stroke="${COLOURS.ink}"/>
<text x="${x + wide / 2}" y="${y + 23}" text-anchor="middle" font-size="14" font-weight="600" fill="${COLOURS.ink}">${escaped(name)}</text>
<text x="${x + wide / 2}" y="${y + 40}" text-anchor="middle" font-size="11" fill="${COLOURS.slate}">${fields} ${fields === 1 ? 'field' : 'fields'}</text>`,
    ),
  ];
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${Math.ceil(width)} ${Math.ceil(height)}" width="${Math.ceil(width)}" height="${Math.ceil(height)}" font-family="${FONTS.text.replaceAll('"', "'")}">
<rect width="100%" height="100%" fill="${COLOURS.paper}"/>
${drawn.join('\n')}
</svg>
`;
}

/** The model as a Mermaid entity-relationship diagram, for documents that draw such text. */
export function mapMermaid(types: readonly RecordType[]): string {
  const quoted = (text: string) => `"${text.replaceAll('"', "'")}"`;
  const entities = types.map(({ key, name, fields }) => {
    const lines = fields.map(
      (field) =>
        `    ${KIND_NAMES[field.type.kind].replace(/[^a-z]+/gi, '_')} ${field.key}${field.type.kind === 'link' ? ' FK' : ''} ${quoted(field.name)}`,
    );
    return `  ${key}[${quoted(name)}] {\n${lines.join('\n')}\n  }`;
  });
  const links = types.flatMap(({ key, fields }) =>
    fields.flatMap((field) =>
      field.type.kind === 'link'
        ? [`  ${field.type.target} ${field.required ? '||' : '|o'}--o{ ${key} : ${quoted(field.name)}`]
        : [],
    ),
  );
  return ['erDiagram', ...entities, ...links, ''].join('\n');
}
