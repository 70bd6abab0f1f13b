import type { RuleState } from '@/core/rules';

const NAMES: Record<RuleState, string> = { draft: 'Draft', live: 'Live', paused: 'Paused' };

export function StateTag({ state }: { state: RuleState }) {
  return (
    <span className="state-tag" data-state={state}>
      {NAMES[state]}
    </span>
  );
}
