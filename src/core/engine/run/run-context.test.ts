import { typeCondition, typeValue } from '@/core/expression';
import { buildPlan } from '@/core/plan';
import { compileRule, type RuleDefinition, sentenceOf } from '@/core/rules';
import { rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { create, edit, numbered, RuleDesk } from '@/core/testing/rule-desk';
import { CLOSED, LATE, PUT_IN, REMINDER, SIGNED, signing } from '@/core/testing/signing';

const model = signing();
const [tax, rent] = [uuid('11'), uuid('12')];
const [first, second] = [uuid('21'), uuid('22')];
const [ada, ben] = [uuid('a'), uuid('b')];
const facts = { person: ada, moment: '2027-03-31T09:30:00.000Z' };
const ROWS = [
  rowOf(model, 'file', tax, { title: 'Tax', state: 'open', owner: ben, due: '2027-04-01' }),
  rowOf(model, 'file', rent, { title: 'Rent', state: 'closed', owner: ben, due: '2027-05-01' }),
  rowOf(model, 'paper', first, { title: 'Form', file: tax }),
  rowOf(model, 'paper', second, { title: 'Receipt', file: tax }),
];
const desk = (...rules: RuleDefinition[]) => new RuleDesk(model, numbered(rules), ROWS);
const close = edit('file', tax, { state: 'closed' });

test('who makes a change, and when, is written where a rule acts on it', () => {
  const files = desk(CLOSED, SIGNED).run([close], { facts });
  expect([files.at('file', tax, 'closedBy'), files.at('file', tax, 'closedAt')]).toEqual([ada, facts.moment]);
  expect(files.at('paper', second, 'signedBy')).toBe(ada);
  const later = { person: ben, moment: '2027-04-01T10:00:00.000Z' };
  files.run([edit('file', tax, { title: 'Taxes' })], { facts: later });
  expect(files.at('file', tax, 'closedBy')).toBe(ada);
  files.run([edit('file', tax, { state: 'open' })], { facts: later }).run([close], { facts: later });
  expect(files.at('file', tax, 'closedAt')).toBe(later.moment);
  // Its owner closed it this time: the papers aren't signed again.
  expect(files.at('paper', first, 'signedBy')).toBe(ada);
});

test('where Oikon itself acts nobody stands there', () => {
  const files = desk(CLOSED).run([close], { facts: { ...facts, person: null } });
  expect([files.at('file', tax, 'closedBy'), files.at('file', tax, 'closedAt')]).toEqual([
    null,
    facts.moment,
  ]);
});

test('at creation only where the branch that is taken says so; what was entered stands', () => {
  const files = desk(PUT_IN);
  files.run(
    [
      create('paper', uuid('31'), { file: tax }),
      create('paper', uuid('32'), { file: rent }),
      create('paper', uuid('33'), { file: tax, signedBy: ben }),
    ],
    { facts },
  );
  expect(['31', '32', '33'].map((id) => files.at('paper', uuid(id), 'signedBy'))).toEqual([ada, ben, ben]);
});

test('a record that is made has who and when of the run that made it, and keeps it', () => {
  const files = desk(REMINDER).run([edit('file', rent, { due: '2027-03-01' })], { facts });
  const [reminder] = [...files.store.rows('reminder')];
  expect(reminder!.values).toMatchObject({ file: rent, madeBy: ada, madeAt: facts.moment });
  files.run([edit('file', rent, { title: 'Rents' })], {
    facts: { person: ben, moment: '2027-04-01T08:00:00.000Z' },
  });
  expect(files.at('reminder', reminder!.id, 'madeBy')).toBe(ada);
});

test('a run that says neither must not come to a rule that reads them', () => {
  expect(() => desk(CLOSED).run([close])).toThrow(/doesn’t say/);
  expect(() => desk(CLOSED).run([edit('file', tax, { title: 'Taxes' })])).not.toThrow();
});

test('what holds at all times can’t hang on them; where a rule acts it says them in words', () => {
  const refused = (definition: RuleDefinition) => {
    const { problems } = buildPlan(model, [ruleOf(definition, 1)]);
    return problems.map(({ code, place }) => `${code} ${place}`);
  };
  const inStep = { ...SIGNED, moment: 'inStep' } as const;
  expect(refused(inStep)).toEqual([
    'expression.run assignments.0.value',
    'expression.run assignments.1.value',
  ]);
  expect(refused({ ...LATE, value: { kind: 'feel', text: 'seenLate < now()' } })).toEqual([
    'expression.run value',
  ]);
  expect(refused({ ...REMINDER, condition: { kind: 'feel', text: 'owner = person()' } })).toEqual([
    'expression.run condition',
  ]);
  expect(refused({ ...SIGNED, condition: { kind: 'feel', text: 'signedBy = person()' } })).toEqual([
    'expression.run condition',
  ]);
  const value = typeValue(model, 'file', { kind: 'feel', text: 'now(1)' }, { usesRunContext: true });
  expect(value).toMatchObject({ problem: { code: 'feel.arguments', data: { from: 0, to: 6 } } });
  const condition = typeCondition(model, 'file', { kind: 'feel', text: 'owner = person()' });
  expect(condition).toMatchObject({ problem: { code: 'expression.run', data: { from: 8, to: 16 } } });
  const compiled = compileRule(model, ruleOf(SIGNED, 1));
  expect(compiled.ok && sentenceOf(model, compiled.rule)).toContain(
    'where not (Owner is the person who makes the change): Signed by as the person who makes the change, Signed at as the moment of the change.',
  );
});
