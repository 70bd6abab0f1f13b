import { fieldIn, type Model, type Pace } from '@/core/model';
import { buildPlan, datedIn } from '@/core/plan';
import { paceWords, readsField, type Rule, type RuleDefinition, targetsOf } from '@/core/rules';
import type { ReviewFinding } from './finding';
import { ORDER } from './finding';

/** How long a value may be behind: the higher, the longer. */
const slowness = (pace: Pace): number => {
  if (pace === 'withTheSave') return 0;
  if (pace === 'soonAfter') return 1;
  return pace.kind === 'onRequest' ? 10 : 2 + ORDER.indexOf(pace.every);
};

const A_DAY = 2 + ORDER.indexOf('day');

export function* slowerInputs(model: Model, others: readonly Rule[], rule: Rule): Generator<ReviewFinding> {
  const parts = buildPlan(model, [rule]).plan.turns;
  for (const other of others) {
    const { pace } = other.definition;
    if (other.id === rule.id || slowness(pace) <= slowness(rule.definition.pace)) continue;
    const read = targetsOf(model, other.definition).find((ref) =>
      parts.some((part) => readsField(part, ref)),
    );
    if (!read) continue;
    // A field that asks for it is one of the other's type.
    const isOwnField = typeof pace !== 'string' && pace.kind === 'onRequest' && pace.field !== null;
    yield {
      code: 'review.slowerInput',
      why: `It reads ${fieldIn(model, read.type, read.field).name}, which “${other.name}” brings up to date only ${paceWords(pace, (key) => fieldIn(model, other.definition.type, key).name)}: until then it is worked out from what stood before.`,
      fix: isOwnField
        ? null
        : {
            label: 'Work it out at the same pace',
            definition: { ...rule.definition, pace } as RuleDefinition,
          },
    };
  }
}

export function* slowDates(model: Model, rule: Rule): Generator<ReviewFinding> {
  const { pace } = rule.definition;
  if (slowness(pace) <= A_DAY || datedIn(model, [rule]).length === 0) return;
  yield {
    code: 'review.slowDate',
    why: 'It hangs on today, and is brought up to date less often than every day: it turns stale without anybody editing anything.',
    fix: {
      label: 'Bring it up to date with the save, and as the day turns',
      definition: { ...rule.definition, pace: 'withTheSave' } as RuleDefinition,
    },
  };
}
