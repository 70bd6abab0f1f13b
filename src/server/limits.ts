/** Most edits that one call may hold. */
export const MOST_EDITS = 5_000;
