/** Something on a map that has a name, by its upper left corner. */
export interface NamedBox {
  readonly id: string;
  readonly name: string;
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  /** How much it matters that its name can be read. */
  readonly weight: number;
}

/** A name as it is written over a map, by its middle, in the map's own measure. */
export interface PlacedName {
  readonly id: string;
  readonly name: string;
  readonly x: number;
  readonly y: number;
}

/** Pixels on the screen. */
const [LETTER, HEIGHT, GAP] = [6.4, 16, 6];

/** Below this the names within the boxes are too small to be read. */
export const FAR = 0.6;

/**
 * Names that can be written over a map that is far away without covering each other, each as large on the screen as any text; the weightiest first,
 * of those alike as they come. The others come into sight as one goes nearer.
 */
export function namesInSight(boxes: readonly NamedBox[], zoom: number): readonly PlacedName[] {
  const placed: (PlacedName & { readonly half: number })[] = [];
  const ranked = boxes
    .map((box, at) => ({ box, at }))
    .sort((a, b) => b.box.weight - a.box.weight || a.at - b.at);
  for (const { box } of ranked) {
    const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
    const half = (box.name.length * LETTER + GAP) / 2;
    const isFree = placed.every(
      (other) => Math.abs(other.x - x) * zoom >= other.half + half || Math.abs(other.y - y) * zoom >= HEIGHT,
    );
    if (isFree) placed.push({ id: box.id, name: box.name, x, y, half });
  }
  return placed.map(({ id, name, x, y }) => ({ id, name, x, y }));
}
