import type { RuleState } from '@/core/rules';

const NAMES: Record<RuleState, string> = {
  draft: 'Draft',
  live: 'Live',
  paused: 'Paused',
  retired: 'Retired',
};

interface StateTagProps {
  readonly state: RuleState;
  readonly isPilot?: boolean;
  /** What the state means, for whoever points at it, or hears it. */
  readonly means?: string;
}

/** What state a rule is in; a live one may run as a pilot, for some records. */
export function StateTag({ state, isPilot = false, means }: StateTagProps) {
  return (
    <span className="state-tag" data-state={isPilot ? 'pilot' : state} title={means}>
      {isPilot ? 'Pilot' : NAMES[state]}
    </span>
  );
}
