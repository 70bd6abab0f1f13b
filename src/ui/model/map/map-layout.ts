import { Graph, layout } from '@dagrejs/dagre';
import { openLinkOf, type RecordType } from '@/core/model';
import {
  aroundOne,
  type Drawn,
  inWrappedLayers,
  type Joint,
  type Places,
  type Point,
  type Size,
} from './map-places';
import {
  MANY_TYPES,
  type MapBox,
  type MapChoice,
  type MapLayout,
  type MapLine,
  WHOLE_MAP,
} from './map-shape';

import { certain, foundIn, itemAt, KIND_NAMES } from '@/core/values';

const HEIGHT = 52;
const ROW = 18;
/** Most fields that are listed of a type. */
const MOST_LISTED = 14;
const LETTER = 8;
const [LABEL_LETTER, SMALL_LETTER] = [7, 6.6];

const widthOf = (name: string): number => Math.max(128, Math.min(260, name.length * LETTER + 48));

/** A type with those that it links to and those that link to it. */
export function neighbours(types: readonly RecordType[], key: string): readonly RecordType[] {
  const targets = ({ fields }: RecordType) =>
    fields.flatMap(({ type }) => (type.kind === 'link' ? [type.target] : []));
  const own = types.find((type) => type.key === key);
  const above = new Set(own ? targets(own) : []);
  return types.filter((type) => type.key === key || above.has(type.key) || targets(type).includes(key));
}

/** Places parents above their children. Pure: the same model, the same map. */
export function layOut(all: readonly RecordType[], choice: MapChoice = WHOLE_MAP): MapLayout {
  const { near } = choice;
  const types = near === null ? all : neighbours(all, near);
  const isThere = new Set(types.map(({ key }) => key));
  const links = types.flatMap((type) =>
    type.fields.flatMap((field) => {
      if (field.type.kind !== 'link' || !isThere.has(field.type.target)) return [];
      const parent = field.type.target;
      return near === null || near === type.key || near === parent ? [{ type, field, parent }] : [];
    }),
  );
  const others = links.filter(({ type, parent }) => parent !== type.key);
  const joints = others.map(({ type, field, parent }) => ({ child: type.key, parent, name: field.name }));
  const sizes = new Map(types.map((type) => [type.key, sizeOf(type, choice)]));
  const places =
    near !== null && isThere.has(near)
      ? aroundOne(near, sizes, joints)
      : inLayers(sizes, joints, types.length > MANY_TYPES);
  const boxes = types.map((type): MapBox => ({
    ...{ key: type.key, name: type.name, fields: type.fields.length, isBridge: type.bridge ?? false },
    ...{ listed: listedOf(type, choice), ...certain(places.at.get(type.key)) },
  }));
  const boxOf = (key: string) => foundIn(boxes, (box) => box.key === key);
  const lines = links.map((link): MapLine => {
    const { type, field, parent } = link;
    const isSelf = parent === type.key;
    const open = openLinkOf(type, field.key);
    const drawn = isSelf ? loopOf(boxOf(type.key), field.name) : itemAt(places.drawn, others.indexOf(link));
    return {
      ...{ id: `${type.key}.${field.key}`, type: type.key, link: field.key, parent },
      ...{
        otherEnd: field.otherEnd ?? '',
        name: open?.name ?? field.name,
        isRequired: field.required ?? false,
      },
      ...{ kind: open ? 'open' : isSelf ? 'self' : 'link', ...drawn },
    };
  });
  const ends = [...boxes.map(({ x, width }) => x + width), ...lines.map(({ label }) => label.x + 60)];
  return {
    ...{ boxes, lines, width: Math.max(0, ...ends) + 24 },
    height: Math.max(0, ...boxes.map(({ y, height }) => y + height)) + 24,
  };
}

const listedOf = ({ fields }: RecordType, { withFields }: MapChoice): MapBox['listed'] =>
  withFields
    ? fields.slice(0, MOST_LISTED).map(({ name, type: { kind } }) => ({ name, kind: KIND_NAMES[kind] }))
    : [];

function sizeOf(type: RecordType, choice: MapChoice): Size {
  const rows = listedOf(type, choice);
  const more = rows.length > 0 && type.fields.length > rows.length ? 1 : 0;
  return {
    width: Math.max(
      widthOf(type.name),
      ...rows.map(({ name, kind }) => Math.min(300, (name.length + kind.length) * SMALL_LETTER + 40)),
    ),
    height: HEIGHT + (rows.length > 0 ? (rows.length + more) * ROW + 10 : 0),
  };
}

/** With as few crossings as a layered layout finds. */
function inLayers(
  sizes: ReadonlyMap<string, Size>,
  joints: readonly (Joint & { readonly name: string })[],
  isWrapped: boolean,
): Places {
  const graph = new Graph({ multigraph: true });
  graph.setGraph({ rankdir: 'TB', nodesep: 40, ranksep: 44, edgesep: 20, marginx: 24, marginy: 24 });
  graph.setDefaultEdgeLabel(() => ({}));
  for (const [key, size] of sizes) graph.setNode(key, { ...size });
  for (const [index, { child, parent, name }] of joints.entries()) {
    const label = { width: name.length * LABEL_LETTER + 12, height: 18, labelpos: 'c' };
    graph.setEdge(parent, child, isWrapped ? {} : label, `${index}`);
  }
  layout(graph);
  const at = new Map(
    [...sizes.keys()].map((key) => {
      const { x, y, width, height } = graph.node(key) as Point & Size;
      return [key, { x: x - width / 2, y: y - height / 2, width, height }];
    }),
  );
  if (isWrapped) {
    const middles = new Map([...at].map(([key, { y, height }]) => [key, Math.round(y + height / 2)]));
    const layers = [...new Set(middles.values())].sort((a, b) => a - b);
    const xOf = (key: string) => certain(at.get(key)).x;
    return inWrappedLayers(
      layers.map((layer) =>
        [...at.keys()].filter((key) => middles.get(key) === layer).sort((a, b) => xOf(a) - xOf(b)),
      ),
      sizes,
      joints,
    );
  }
  const drawn = joints.map(({ child, parent }, index): Drawn => {
    const { x, y, points } = graph.edge({ v: parent, w: child, name: `${index}` }) as Point & {
      points: Point[];
    };
    return { points: [...points].reverse(), label: { x, y } };
  });
  return { at, drawn };
}

const loopOf = (box: MapBox, name: string): Drawn => ({
  points: loopAt(box),
  label: { x: box.x + box.width + 44 + (name.length * LABEL_LETTER) / 2, y: box.y + box.height / 2 },
});

/** A self link leaves on the right and comes back on the right. */
function loopAt({ x, y, width, height }: MapBox): Point[] {
  const right = x + width;
  return [
    { x: right, y: y + height * 0.72 },
    { x: right + 34, y: y + height * 0.72 },
    { x: right + 34, y: y + height * 0.28 },
    { x: right, y: y + height * 0.28 },
  ];
}
