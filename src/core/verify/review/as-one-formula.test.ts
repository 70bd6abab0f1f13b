import { MemoryStore, readerOf, type Row } from '@/core/engine';
import { evaluatorOf, type Expression, typeCondition, typeValue } from '@/core/expression';
import type { Formula, Rule } from '@/core/rules';
import { CASES_MODEL as MODEL, CASES_ROWS, printValue } from '@/core/testing/feel-cases';
import type { Value } from '@/core/values';
import { asOneFormula } from './as-one-formula';

const store = new MemoryStore(MODEL, true);
CASES_ROWS.forEach((row) => store.put(row));
const reader = readerOf(MODEL, store);
const THINGS = CASES_ROWS.filter(({ type }) => type === 'thing');

const feel = (text: string): Expression => ({ kind: 'feel', text });
const formula = (value: string, when: string | null, otherwise: string | null = null): Formula => ({
  ...{ kind: 'formula', type: 'thing', target: 'grade', rounding: null, pace: 'withTheSave' },
  value: feel(value),
  appliesWhen: when === null ? null : feel(when),
  otherwise: otherwise === null ? null : feel(otherwise),
});
const rule = (definition: Rule['definition'], at: number, name = `Rule ${at}`): Rule => ({
  ...{ id: `rule-${at}`, version: `version-${at}`, name, definition },
});

/** What a formula comes to on a record. */
function worked({ value, appliesWhen, otherwise }: Formula, row: Row): string {
  const of = (expression: Expression): string => {
    const typed = typeValue(MODEL, 'thing', expression);
    if (!typed.ok) throw new Error(typed.problem.message);
    return printValue(evaluatorOf(typed.value)(row, reader.given, reader.beneath) as Value);
  };
  if (!appliesWhen) return of(value);
  const test = typeCondition(MODEL, 'thing', appliesWhen);
  if (!test.ok) throw new Error(test.problem.message);
  if (evaluatorOf(test.value)(row, reader.given, reader.beneath) === true) return of(value);
  return otherwise ? of(otherwise) : 'null';
}
const applies = ({ appliesWhen }: Formula, row: Row): boolean =>
  worked({ ...formula('1', null, '0'), appliesWhen }, row) === '1';

test.each<[string, Formula, Formula]>([
  ['both have a condition', formula('1', 'size > 2'), formula('2', 'isOpen')],
  ['only this one has', formula('1', 'size > 2'), formula('2', null)],
  ['the other has something else', formula('1', 'isOpen'), formula('2', 'size > 2', '3')],
])(
  'two formulas on one field are stated as one where %s: this one where it applies, else the other',
  (_, own, its) => {
    const made = asOneFormula(MODEL, rule(own, 1), rule(its, 2, 'Other'))!;
    expect(made.label).toBe('State “Other” in it too');
    for (const row of THINGS)
      expect(worked(made.definition as Formula, row)).toBe(worked(applies(own, row) ? own : its, row));
    // It is written so already.
    expect(asOneFormula(MODEL, rule(made.definition, 1), rule(its, 2))).toBeNull();
  },
);

test('the other comes first where only it has a condition', () => {
  const [own, its] = [formula('1', null), formula('2', 'size > 2')];
  const made = asOneFormula(MODEL, rule(own, 1), rule(its, 2))!;
  for (const row of THINGS)
    expect(worked(made.definition as Formula, row)).toBe(worked(applies(its, row) ? its : own, row));
  expect(asOneFormula(MODEL, rule(made.definition, 1), rule(its, 2))).toBeNull();
});

test.each<[string, Formula, Rule['definition']]>([
  ['neither has a condition', formula('1', null), formula('2', null)],
  ['each says what stands elsewhere', formula('1', 'isOpen', '3'), formula('2', 'size > 2', '4')],
  [
    'they round otherwise',
    formula('1', 'isOpen'),
    { ...formula('2', null), rounding: { mode: 'up', places: 0 } },
  ],
  ['they keep other fields', formula('1', 'isOpen'), { ...formula('2', null), target: 'number' }],
  ['what would be written is too large', formula('1', 'isOpen'), formula(`1 ${'+ 1 '.repeat(399)}`, null)],
])('nothing is offered where %s', (_, own, its) => {
  expect(asOneFormula(MODEL, rule(own, 1), rule(its, 2))).toBeNull();
});
