import { firstIn } from '@/core/values';
import { fieldIn, typeAlong } from '@/core/model';
import type { CompiledRule } from '@/core/rules';
import { Decimal, displayValue, type Value } from '@/core/values';
import type { Explanation } from '@/core/verify';
import { database } from '@/server/database/connection';
import { seenTypeOf } from '@/server/queries/seen-workspace';
import { Refusal } from '@/server/refusal';
import { Wanted } from '@/server/store/session/titles';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { type ExplanationInput, getExplanation } from './explanation';
import { checkSeen } from './records';
import { seenIds } from './seen-part';

/** Members that are looked through for what somebody sees of them. */
const MOST = 5_000;
/** Fewer records that aren't seen could be told from the rest. */
const LEAST_TOLD = 2;

/**
 * What a kept value is made of, as far as somebody sees it who sees only a part: their records one by one, all others that count together. Refused where the rule
 * reads fields that they don't see, or goes up to records that they may not: then how it came about would tell these.
 */
export async function explanationSeen(
  seen: LoadedWorkspace,
  whole: LoadedWorkspace,
  input: Pick<ExplanationInput, 'type' | 'id' | 'field'>,
): Promise<Explanation> {
  const { type, id, field } = input;
  await checkSeen(seen, type, id);
  const keeping = whole.plan.rules.filter(
    ({ kind, writes }) => kind !== 'reactingCascade' && writes.type === type && writes.field === field,
  );
  if (!seen.model.field(type, field) || keeping.some((rule) => !isTold(seen, rule)))
    throw new Refusal(
      403,
      'sight.part',
      'How this came about reads what you don’t see here. Ask somebody who sees all.',
    );
  const explanation = await getExplanation(whole, { ...input, from: 0, limit: MOST });
  const wanted = new Wanted();
  for (const member of explanation.members) wanted.add(member.type, member.id);
  const ids = await database().transaction((transaction) => seenIds(transaction, seen, wanted));
  const members = explanation.members.filter((member) => ids.has(member.id));
  const others = explanation.members.filter((member) => !ids.has(member.id) && member.standing === 'counts');
  const counted = members.filter(({ standing }) => standing === 'counts');
  const isAll = explanation.next === null;
  const isMany = isAll && others.length >= LEAST_TOLD;
  return {
    ...explanation,
    ...{ members, counted: counted.length, total: members.length, next: null, tree: null },
    members: members.map((member) => ({ ...member, through: null, opens: null })),
    sources: explanation.sources.map((source, at) => ({
      ...source,
      counted: counted.filter((member) => member.source === at).length,
      total: members.filter((member) => member.source === at).length,
    })),
    ...(isAll && others.length === 0
      ? {}
      : {
          unseen: {
            records: isMany ? others.length : null,
            text: isMany
              ? sumOf(whole, input, keeping.length === 1 ? firstIn(keeping) : undefined, others)
              : null,
          },
        }),
  };
}

/** Whether all that a rule reads is seen: each field, and every record up a way, since it isn't one of many. */
const isTold = (seen: LoadedWorkspace, { writes: { type }, reads }: CompiledRule): boolean =>
  reads.every((read) => {
    if (!seen.model.type(read.type) || !seen.model.field(read.type, read.field)) return false;
    return read.path.every((step, at) => {
      if (step.direction === 'down') return true;
      const to = typeAlong(seen.model, type, read.path.slice(0, at + 1));
      return !seenTypeOf(seen, to)?.where;
    });
  });

/** What records give together, of a sum of amounts; `null` of anything else. */
function sumOf(
  { model }: LoadedWorkspace,
  { type, field }: Pick<ExplanationInput, 'type' | 'field'>,
  rule: CompiledRule | undefined,
  others: Explanation['members'],
): string | null {
  if (rule?.kind !== 'rollUp' || rule.aggregate !== 'sum') return null;
  const { type: kind } = fieldIn(model, type, field);
  if (kind.kind !== 'money' && kind.kind !== 'number') return null;
  let sum = new Decimal(0);
  for (const { value } of others) {
    const wire = value?.wire;
    const digits = typeof wire === 'object' && wire !== null && 'amount' in wire ? wire.amount : wire;
    if (typeof digits === 'string') sum = sum.plus(new Decimal(digits));
  }
  const value = (kind.kind === 'money' ? { amount: sum, currency: kind.currency } : sum) as Value;
  return displayValue(kind, value);
}
