import type { RuleView } from '@/core/api';
import { reacts, type RuleDefinition } from '@/core/rules';
import { Term } from '@/ui/help/term';
import { StateTag } from '@/ui/kit/state-tag';
import { changeWords, isPilotOnly } from './state-words';

/** The state of a rule, and how it holds, with what the words mean. */
export function HowItStands({
  rule,
  definition,
}: {
  /** `null` for one that isn't saved yet. */
  readonly rule: RuleView | null;
  readonly definition: RuleDefinition | null;
}) {
  const isPilot = rule !== null && isPilotOnly(rule);
  const change = rule && changeWords(rule);
  return (
    <>
      <Term of={isPilot ? 'pilot' : (rule?.state ?? 'draft')}>
        <StateTag state={rule?.state ?? 'draft'} isPilot={isPilot} />
      </Term>
      {change ? <span className="state-tag">{change}</span> : null}
      {definition && definition.kind !== 'create' ? (
        <span className="quiet">
          {reacts(definition) ? <Term of="reacts" /> : <Term of="kept">keeps its field</Term>}
        </span>
      ) : null}
    </>
  );
}
