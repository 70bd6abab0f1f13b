/** Most edits that one call may hold. */
export const MOST_EDITS = 5_000;

/** Most runs of a proof, and most that it expects. */
export const MOST_RUNS = 50;
export const MOST_EXPECTATIONS = 500;
