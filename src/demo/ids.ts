import type { Random } from '@/core/random';

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
