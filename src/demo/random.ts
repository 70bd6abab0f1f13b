/** A repeatable source of random numbers (mulberry32): the same seed gives the same demo everywhere. */
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

/** Time-ordered UUIDs (version 7, RFC 9562) from a fixed start, so that the demo's ids never change. */
export class Ids {
  #time = Date.UTC(2026, 0, 5, 9);

  constructor(private readonly random: Random) {}

  next(): string {
    this.#time += 1;
    const time = this.#time.toString(16).padStart(12, '0');
    const digits = (count: number) =>
      Array.from({ length: count }, () => this.random.whole(0, 15).toString(16)).join('');
    return `${time.slice(0, 8)}-${time.slice(8)}-7${digits(3)}-${this.random.pick(['8', '9', 'a', 'b'])}${digits(3)}-${digits(12)}`;
  }
}
