import type { RuleState } from '@/core/rules';

const NAMES: Record<RuleState, string> = {
  draft: 'Draft',
  live: 'Live',
  paused: 'Paused',
  retired: 'Retired',
};

/** What state a rule is in; a live one may run as a pilot, for some records. */
export function StateTag({ state, isPilot = false }: { state: RuleState; isPilot?: boolean }) {
  return (
    <span className="state-tag" data-state={isPilot ? 'pilot' : state}>
      {isPilot ? 'Pilot' : NAMES[state]}
    </span>
  );
}
