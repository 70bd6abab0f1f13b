import type { Step } from './steps';

/** What is staged on the bench, with what was taken back and may be staged again. */
export interface Staging {
  /** What it began with: a proof's own steps, or nothing. */
  readonly begun: readonly Step[];
  readonly steps: readonly Step[];
  /** Earlier states, the last one last; and later ones that were left by undoing, the next one last. */
  readonly past: readonly (readonly Step[])[];
  readonly future: readonly (readonly Step[])[];
}

export const beginStaging = (begun: readonly Step[]): Staging => ({
  ...{ begun, steps: begun, past: [], future: [] },
});

/** Other steps in place of those that are staged; what was undone before can't be done again then. */
export const restage = ({ begun, steps, past }: Staging, to: readonly Step[]): Staging => ({
  ...{ begun, steps: to, past: [...past, steps], future: [] },
});

/** As it was before the last change of what is staged; of a proof that was opened its own last step goes, too. */
export function undoStaging(staging: Staging): Staging {
  const { begun, steps, past, future } = staging;
  const before = past.at(-1) ?? (steps.length > 0 ? steps.slice(0, -1) : null);
  return before === null
    ? staging
    : { begun, steps: before, past: past.slice(0, -1), future: [...future, steps] };
}

/** As it was before the last undo. */
export function redoStaging(staging: Staging): Staging {
  const { begun, steps, past, future } = staging;
  const next = future.at(-1);
  return next === undefined
    ? staging
    : { begun, steps: next, past: [...past, steps], future: future.slice(0, -1) };
}
