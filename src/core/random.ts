/** A repeatable source of random numbers (mulberry32): the same seed gives the same everywhere. */
export class Random {
  #state: number;

  constructor(seed: number) {
    this.#state = seed >>> 0;
  }

  /** From 0 up to, not including, 1. */
  next(): number {
    this.#state = (this.#state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(this.#state ^ (this.#state >>> 15), this.#state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296;
  }

  /** A whole number from `least` to `most`, both included. */
  whole(least: number, most: number): number {
    return least + Math.floor(this.next() * (most - least + 1));
  }

  pick<T>(from: readonly T[]): T {
    return from[this.whole(0, from.length - 1)]!;
  }

  chance(of: number): boolean {
    return this.next() < of;
  }

  /** Some of a list, none twice. */
  some<T>(from: readonly T[], count: number): T[] {
    const left = [...from];
    return Array.from(
      { length: Math.min(count, left.length) },
      () => left.splice(this.whole(0, left.length - 1), 1)[0]!,
    );
  }
}
