/** How many records a run goes over one by one; more are left to sets. */
export interface Bounds {
  /** Most recipients that take something from a rule that cascades. */
  readonly mostByRow: number;
  /** Most records of which a rule that keeps its field is worked out. */
  readonly mostKeptByRow: number;
  /** So many are looked at together in a run over many. */
  readonly page: number;
}

/** What saves go by. */
export const BOUNDS: Bounds = { mostByRow: 1_000, mostKeptByRow: 20_000, page: 2_000 };
