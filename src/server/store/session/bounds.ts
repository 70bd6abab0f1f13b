import { type Bounds, BOUNDS } from '@/core/engine';

let bounds = BOUNDS;

/** How many records the runs of this process go over one by one. */
export const boundsNow = (): Bounds => bounds;

/** Tests make them small, so that few records go the way of many; with nothing they are what they were. */
export function setBounds(to: Bounds = BOUNDS): void {
  bounds = to;
}
