import { type Field, type ModelDefinition, readModel, type RecordType } from '@/core/model';
import type { Formula, RollUp, RuleDefinition } from '@/core/rules';
import { rollUp } from './galleries';

/** Types that hang together as chains of so many. */
const CHAIN = 10;

const typeKey = (at: number): string => `t${at}`;

const number = (key: string, name: string, scale: number): Field => ({
  ...{ key, name, type: { kind: 'number', scale } },
});

/** A model of many types: chains of ten, each hanging under the one before. */
export const manyTypes = (types: number): ModelDefinition => ({
  types: Array.from({ length: types }, (_, at): RecordType => {
    const under: Field = {
      ...{ key: 'under', name: 'Under', type: { kind: 'link', target: typeKey(at - 1) } },
      ...{ otherEnd: `Parts ${at}` },
    };
    return {
      ...{ key: typeKey(at), name: `Type ${at}`, plural: `Types ${at}`, title: 'title' },
      fields: [
        { key: 'title', name: 'Title', type: { kind: 'text' }, required: true },
        ...[number('amount', 'Amount', 2), number('total', 'Total', 2), number('twice', 'Twice', 2)],
        number('parts', 'Parts', 0),
        ...(at % CHAIN === 0 ? [] : [under]),
      ],
    };
  }),
});

export const manyModel = (types: number) => readModel(manyTypes(types), '2026-03-14');

/** Three rules for each type but the last of its chain: a sum and a count over what hangs under it, and a formula. */
export function manyRules(types: number): RuleDefinition[] {
  const rules: RuleDefinition[] = [];
  for (let at = 0; at < types; at += 1) {
    const type = typeKey(at);
    const twice: Formula = {
      ...{ kind: 'formula', type, target: 'twice', appliesWhen: null, otherwise: null },
      ...{ value: { kind: 'feel', text: 'amount * 2' }, rounding: null, pace: 'withTheSave' },
    };
    rules.push(twice);
    if (at % CHAIN === CHAIN - 1 || at === types - 1) continue;
    const route: RollUp['route'] = [{ direction: 'down', type: typeKey(at + 1), link: 'under' }];
    rules.push(
      rollUp({
        type,
        target: 'total',
        aggregate: 'sum',
        value: { kind: 'field', route: [], field: 'twice' },
        route,
      }),
      rollUp({ type, target: 'parts', aggregate: 'count', value: null, route }),
    );
  }
  return rules;
}
