import { type Field, openLinkOf, typeIn } from '@/core/model';
import { isAtOnce } from '@/core/rules';
import { type Value, valueKey, firstIn } from '@/core/values';
import { ask, type Answer, type Answers, type Need } from '@/core/engine/driver/need';
import type { Missing } from '@/core/engine/driver/ripple';
import { type Making, type MakingInput, type ToMake } from './making';

/** What lacks a required value, or has one that another record has, is proposed instead: a person fills it in. */
export function* proposeMissing(
  { model, rule }: Pick<MakingInput, 'model' | 'rule'>,
  { makes, proposals }: Making,
): Generator<Need, void, Answer> {
  const type = typeIn(model, rule.makes);
  const taken = yield* takenIn({ model, rule }, makes);
  const going = makes.splice(0);
  for (const one of going) {
    const missing = [
      ...requiredMissing(type.fields, one.values, false),
      ...(type.openLinks ?? [])
        .filter(
          ({ required, links }) => required && links.every((link) => (one.values[link] ?? null) === null),
        )
        .map(({ links }): Missing => ({ field: firstIn(links), reason: 'empty' })),
      ...(taken.get(one) ?? []),
    ].filter(
      ({ field, reason }) =>
        reason === 'taken' ||
        !openLinkOf(type, field)?.links.some((link) => (one.values[link] ?? null) !== null),
    );
    const isDone = isAtOnce(one.way) && missing.length === 0;
    if (isDone) makes.push(one);
    if (one.way === 'directly' && isDone) continue;
    proposals.push({
      ...{ rule: rule.id, kind: 'make', target: null, type: type.key, values: one.values, missing, isDone },
      ...{ source: { type: one.source.type, id: one.source.id }, causes: one.causes },
    });
  }
}

/** Values of unique fields that stand in another record already, or would in two of those that are made. */
function* takenIn(
  { model, rule }: Pick<MakingInput, 'model' | 'rule'>,
  makes: readonly ToMake[],
): Generator<Need, Map<ToMake, Missing[]>, Answer> {
  const found = new Map<ToMake, Missing[]>();
  for (const field of typeIn(model, rule.makes).fields.filter(({ unique }) => unique)) {
    const having = makes.filter(({ values }) => (values[field.key] ?? null) !== null);
    if (having.length === 0) continue;
    const values = having.map((one) => one.values[field.key] as Exclude<Value, null>);
    const holders: Answers['holders'] = yield* ask<'holders'>({
      ...{ kind: 'holders', type: rule.makes, field: field.key, values },
    });
    const seen = new Set(holders.map((row) => valueKey(row.values[field.key] as Exclude<Value, null>)));
    for (const one of having) {
      const key = valueKey(one.values[field.key] as Exclude<Value, null>);
      if (seen.has(key)) found.set(one, [...(found.get(one) ?? []), { field: field.key, reason: 'taken' }]);
      seen.add(key);
    }
  }
  return found;
}

/** Required fields that would stand empty; of an edit only those that it touches. */
export function requiredMissing(
  fields: readonly Field[],
  values: Readonly<Record<string, Value>>,
  isEdit: boolean,
): Missing[] {
  return fields
    .filter(({ key, required, type }) => required && type.kind !== 'serial' && (!isEdit || key in values))
    .filter(({ key }) => (values[key] ?? null) === null)
    .map(({ key }): Missing => ({ field: key, reason: 'empty' }));
}
