/** How runs are timed: both sides in turn, so that what else the machine does meets both; medians of their ratios. */

export interface Figure {
  readonly work: string;
  readonly ours: number;
  readonly theirs: number;
  readonly ratio: number;
  readonly must: number | null;
  readonly goal: number | null;
  readonly note?: string;
}

export const median = (of: readonly number[]): number => {
  const sorted = [...of].sort((a, b) => a - b);
  const middle = Math.floor(sorted.length / 2);
  return sorted.length % 2 === 1 ? sorted[middle]! : (sorted[middle - 1]! + sorted[middle]!) / 2;
};

/** Milliseconds that some work takes. */
export async function timed(work: () => unknown): Promise<number> {
  const start = performance.now();
  await work();
  return performance.now() - start;
}

export interface Pair {
  readonly work: string;
  readonly must: number | null;
  readonly goal: number | null;
  readonly note?: string;
  readonly rounds: number;
  /** Each answers the milliseconds that count, so that it can put things back outside the time. */
  readonly ours: (round: number) => Promise<number>;
  readonly theirs: (round: number) => Promise<number>;
  readonly warmUp?: number;
}

/** Takes both sides in turn, the first rounds not counted. */
export async function compare({
  work,
  must,
  goal,
  note,
  rounds,
  ours,
  theirs,
  warmUp = 1,
}: Pair): Promise<Figure> {
  const times: { ours: number; theirs: number }[] = [];
  for (let round = 0; round < rounds + warmUp; round += 1) {
    const isOursFirst = round % 2 === 0;
    const first = await (isOursFirst ? ours : theirs)(round);
    const second = await (isOursFirst ? theirs : ours)(round);
    const [own, other] = isOursFirst ? [first, second] : [second, first];
    if (round >= warmUp) times.push({ ours: own, theirs: other });
  }
  const figure = {
    ...{ work, must, goal, ...(note ? { note } : {}) },
    ours: median(times.map((time) => time.ours)),
    theirs: median(times.map((time) => time.theirs)),
    ratio: median(times.map((time) => time.ours / time.theirs)),
  };
  print(figure);
  return figure;
}

const milliseconds = (value: number): string =>
  value >= 1000
    ? `${(value / 1000).toFixed(2)} s`
    : value >= 10
      ? `${value.toFixed(0)} ms`
      : `${value.toFixed(3)} ms`;

export function print({ work, ours, theirs, ratio, must, goal, note }: Figure): void {
  const bar =
    must === null
      ? ''
      : ` · must ${must}× ${ratio <= must ? 'holds' : 'FAILS'}${goal === null ? '' : `, going to ${goal}×${ratio <= goal ? ' reached' : ''}`}`;
  console.log(
    `${work}\n    ${milliseconds(ours)} against ${milliseconds(theirs)}: ${ratio.toFixed(2)}×${bar}${note ? ` · ${note}` : ''}`,
  );
}

/** The median of some work against the time that it may take, in milliseconds: where a person waits for it. */
export async function within(work: string, limit: number, run: () => unknown): Promise<Figure> {
  const times: number[] = [];
  for (let round = 0; round < 7; round += 1) times.push(await timed(run));
  const ours = median(times.slice(2));
  const figure = { work, ours, theirs: limit, ratio: ours / limit, must: 1, goal: null };
  print(figure);
  return figure;
}
