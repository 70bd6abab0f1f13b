import { foundIn, lastIn } from '@/core/values';
import { Graph, layout } from '@dagrejs/dagre';
import { openLinkOf, type RecordType } from '@/core/model';

export interface Point {
  readonly x: number;
  readonly y: number;
}

/** A type on the map, by its upper left corner. */
export interface MapBox extends Point {
  readonly key: string;
  readonly name: string;
  readonly fields: number;
  readonly isBridge: boolean;
  readonly width: number;
  readonly height: number;
}

/** A link on the map, from the child down to its parent's box; told apart by form. */
export interface MapLine {
  readonly id: string;
  /** The type that has the link, and its key. */
  readonly type: string;
  readonly link: string;
  readonly parent: string;
  readonly name: string;
  readonly otherEnd: string;
  readonly isRequired: boolean;
  readonly kind: 'link' | 'self' | 'open';
  readonly points: readonly Point[];
  /** The middle of its name's place. */
  readonly label: Point;
}

export interface MapLayout {
  readonly boxes: readonly MapBox[];
  readonly lines: readonly MapLine[];
  readonly width: number;
  readonly height: number;
}

const HEIGHT = 52;
const LETTER = 8;
const LABEL_LETTER = 7;

const widthOf = (name: string): number => Math.max(128, Math.min(260, name.length * LETTER + 48));

/** Places parents above their children, with as few crossings as a layered layout finds. Pure: the same model, the same map. */
export function layOut(types: readonly RecordType[]): MapLayout {
  const graph = new Graph({ multigraph: true });
  graph.setGraph({ rankdir: 'TB', nodesep: 40, ranksep: 44, edgesep: 20, marginx: 24, marginy: 24 });
  graph.setDefaultEdgeLabel(() => ({}));
  for (const { key, name } of types) graph.setNode(key, { width: widthOf(name), height: HEIGHT });
  const links = types.flatMap((type) =>
    type.fields.flatMap((field) =>
      field.type.kind === 'link' ? [{ type, field, parent: field.type.target }] : [],
    ),
  );
  for (const { type, field, parent } of links)
    if (parent !== type.key)
      graph.setEdge(
        parent,
        type.key,
        { width: field.name.length * LABEL_LETTER + 12, height: 18, labelpos: 'c' },
        `${type.key}.${field.key}`,
      );
  layout(graph);
  const boxes = types.map((type): MapBox => {
    const { x, y, width, height } = graph.node(type.key) as MapBox;
    return {
      ...{ key: type.key, name: type.name, fields: type.fields.length, isBridge: type.bridge ?? false },
      ...{ x: x - width / 2, y: y - height / 2, width, height },
    };
  });
  const boxOf = (key: string) => foundIn(boxes, (box) => box.key === key);
  const lines = links.map(({ type, field, parent }): MapLine => {
    const id = `${type.key}.${field.key}`;
    const isSelf = parent === type.key;
    const open = openLinkOf(type, field.key);
    const box = boxOf(type.key);
    const edge = isSelf
      ? {
          points: loopAt(box),
          x: box.x + box.width + 44 + (field.name.length * LABEL_LETTER) / 2,
          y: box.y + box.height / 2,
        }
      : (graph.edge({ v: parent, w: type.key, name: id }) as Point & { points: Point[] });
    return {
      ...{ id, type: type.key, link: field.key, parent, otherEnd: field.otherEnd ?? '' },
      ...{ name: open?.name ?? field.name, isRequired: field.required ?? false },
      kind: open ? 'open' : isSelf ? 'self' : 'link',
      points: isSelf ? edge.points : [...edge.points].reverse(),
      label: { x: edge.x, y: edge.y },
    };
  });
  const { width = 0, height = 0 } = graph.graph() as { width?: number; height?: number };
  return { boxes, lines, width: width + 60, height };
}

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

/** A line through points as an SVG path, with its corners rounded. */
export function pathOf(points: readonly Point[]): string {
  const [first, ...rest] = points;
  if (!first) return '';
  const last = lastIn(rest);
  const inner = rest.slice(0, -1);
  const parts = inner.map((point, at) => {
    const next = inner[at + 1] ?? last;
    const end = at === inner.length - 1 ? next : { x: (point.x + next.x) / 2, y: (point.y + next.y) / 2 };
    return `Q ${round(point)} ${round(end)}`;
  });
  return parts.length > 0 ? `M ${round(first)} ${parts.join(' ')}` : `M ${round(first)} L ${round(last)}`;
}

const round = ({ x, y }: Point): string => `${Math.round(x * 10) / 10} ${Math.round(y * 10) / 10}`;
