import type { RuleView } from '@/core/api';
import { reacts, type RuleDefinition } from '@/core/rules';
import { Term } from '@/ui/help/term';
import { StateTag } from '@/ui/kit/state-tag';

/** The state of a rule, and how it holds, with what the words mean. */
export function HowItStands({
  rule,
  definition,
}: {
  /** `null` for one that isn't saved yet. */
  readonly rule: RuleView | null;
  readonly definition: RuleDefinition | null;
}) {
  return (
    <>
      <Term of={rule?.pilot ? 'pilot' : (rule?.state ?? 'draft')}>
        <StateTag state={rule?.state ?? 'draft'} isPilot={Boolean(rule?.pilot)} />
      </Term>
      {rule?.hasChangesNotLive ? <span className="state-tag">Change not live</span> : null}
      {definition && definition.kind !== 'create' ? (
        <span className="quiet">
          {reacts(definition) ? <Term of="reacts" /> : <Term of="kept">keeps its field</Term>}
        </span>
      ) : null}
    </>
  );
}
