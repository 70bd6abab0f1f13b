import { certain, itemAt } from '@/core/values';

export interface Point {
  readonly x: number;
  readonly y: number;
}

export interface Size {
  readonly width: number;
  readonly height: number;
}

export type Rect = Point & Size;

/** A link to be drawn: from a child up to its parent. */
export interface Joint {
  readonly child: string;
  readonly parent: string;
}

/** A line from the child to the parent, and the middle of its name's place. */
export interface Drawn {
  readonly points: readonly Point[];
  readonly label: Point;
}

/** Where things stand, and how what joins them runs, in the order of the joints. */
export interface Places {
  readonly at: ReadonlyMap<string, Rect>;
  readonly drawn: readonly Drawn[];
}

const [MARGIN, GAP] = [24, 36];
/** Between rows: room for the names of links. */
const BETWEEN = 72;
const COLUMNS = 3;
const [NAME, CORNER, BESIDE] = [14, 10, 26];

/**
 * One in the middle, what it hangs under in rows above it and what hangs under it in rows beneath, so that all of it can be read; lines run between
 * the rows and columns, never behind a box. Of the joints only those of the one in the middle may be given.
 */
export function aroundOne(one: string, sizes: ReadonlyMap<string, Size>, joints: readonly Joint[]): Places {
  const parents = [...new Set(joints.filter(({ child }) => child === one).map(({ parent }) => parent))];
  const above = parents.filter((key) => key !== one);
  const beneath = [...new Set(joints.map(({ child }) => child))].filter(
    (key) => key !== one && !above.includes(key),
  );
  const column = Math.max(...[...sizes.values()].map(({ width }) => width)) + GAP;
  const rows = [...inRows(above, COLUMNS), [one], ...inRows(beneath, COLUMNS)];
  const centre = MARGIN + (COLUMNS * column) / 2;
  const at = new Map<string, Rect>();
  const tops: number[] = [];
  let y = MARGIN;
  for (const row of rows) {
    tops.push(y);
    for (const [place, key] of row.entries()) {
      const size = certain(sizes.get(key));
      const x = centre + (place - (row.length - 1) / 2) * column - size.width / 2;
      at.set(key, { x, y, ...size });
    }
    y += Math.max(...row.map((key) => certain(sizes.get(key)).height)) + BETWEEN;
  }
  const own = certain(at.get(one));
  const middle = rows.findIndex(([key]) => key === one);
  const drawn = joints.map((joint, index): Drawn => {
    const other = joint.child === one ? joint.parent : joint.child;
    const rect = certain(at.get(other));
    const row = rows.findIndex((keys) => keys.includes(other));
    const alike = joints
      .slice(0, index)
      .filter((before) => [before.child, before.parent].includes(other)).length;
    const x = rect.x + rect.width / 2 + alike * BESIDE;
    const isBeneath = row > middle;
    // The far ends: of the other box, and of the one in the middle.
    const [far, near] = isBeneath ? [rect.y, own.y + own.height] : [rect.y + rect.height, own.y];
    const away = isBeneath ? -1 : 1;
    const bus = far + away * (BETWEEN - 20);
    const turn = near - away * 20;
    const lane = laneBeside(rect, itemAt(rows, row).length, column, centre);
    const isNext = Math.abs(row - middle) === 1;
    const way = isNext
      ? [
          { x, y: far },
          { x, y: turn },
          { x: centre, y: turn },
          { x: centre, y: near },
        ]
      : [
          ...[
            { x, y: far },
            { x, y: bus },
            { x: lane, y: bus },
          ],
          ...[
            { x: lane, y: turn },
            { x: centre, y: turn },
            { x: centre, y: near },
          ],
        ];
    const points = withCorners(way);
    return {
      points: joint.child === one ? [...points].reverse() : points,
      label: { x, y: far + away * (NAME + alike * NAME) },
    };
  });
  return { at, drawn };
}

/** Where a line passes the rows between: beside the boxes, on the side that is nearer to the middle. */
function laneBeside({ x, width }: Rect, inRow: number, column: number, centre: number): number {
  const middle = x + width / 2;
  // Full rows have boxes in the middle, so the lanes are between columns; a row of two has its lanes further out.
  const side = middle < centre || (middle === centre && inRow % 2 === 0) ? -1 : 1;
  return centre + (side * column) / 2;
}

const inRows = <T>(all: readonly T[], most: number): T[][] =>
  Array.from({ length: Math.ceil(all.length / most) }, (_, row) => all.slice(row * most, (row + 1) * most));

/** Short arcs at the corners: what is drawn through the points is straight between them. */
function withCorners(points: readonly Point[]): Point[] {
  const between = (from: Point, to: Point): Point => {
    const length = Math.hypot(to.x - from.x, to.y - from.y);
    const share = length === 0 ? 0 : Math.min(CORNER, length / 2) / length;
    return { x: from.x + (to.x - from.x) * share, y: from.y + (to.y - from.y) * share };
  };
  return points.flatMap((point, index) => {
    const [before, after] = [points[index - 1], points[index + 1]];
    return before && after ? [between(point, before), point, between(point, after)] : [point];
  });
}

/**
 * What stands in layers, put into rows that are hardly longer than all of them are high, each layer beneath the one before it; lines run
 * straight. Of very many a layer by itself is a strip that nobody can look over.
 */
export function inWrappedLayers(
  layers: readonly (readonly string[])[],
  sizes: ReadonlyMap<string, Size>,
  joints: readonly Joint[],
): Places {
  const number = layers.reduce((sum, layer) => sum + layer.length, 0);
  // A box is about three times as wide as a row is high.
  const perRow = Math.max(COLUMNS, Math.ceil(Math.sqrt(number * 0.9)));
  const column = Math.max(...[...sizes.values()].map(({ width }) => width)) + GAP / 2;
  const at = new Map<string, Rect>();
  let y = MARGIN;
  for (const row of layers.flatMap((layer) => inRows(layer, perRow))) {
    for (const [place, key] of row.entries()) {
      const size = certain(sizes.get(key));
      const x = MARGIN + ((perRow - row.length) / 2 + place + 0.5) * column - size.width / 2;
      at.set(key, { x, y, ...size });
    }
    y += Math.max(...row.map((key) => certain(sizes.get(key)).height)) + GAP;
  }
  const middleOf = (key: string): Point => {
    const { x, y: top, width, height } = certain(at.get(key));
    return { x: x + width / 2, y: top + height / 2 };
  };
  return {
    at,
    drawn: joints.map(({ child, parent }): Drawn => {
      const [from, to] = [middleOf(child), middleOf(parent)];
      const isUp = to.y < from.y;
      const ends = (point: Point, key: string, sign: number): Point => ({
        x: point.x,
        y: point.y + (sign * certain(at.get(key)).height) / 2,
      });
      const points = [ends(from, child, isUp ? -1 : 1), ends(to, parent, isUp ? 1 : -1)];
      const [a, b] = points as [Point, Point];
      return { points, label: { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 } };
    }),
  };
}
