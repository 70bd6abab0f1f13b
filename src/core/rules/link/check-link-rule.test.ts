import type { Expression } from '@/core/expression';
import { readModel } from '@/core/model';
import { ruleOf } from '@/core/testing/galleries';
import { CRATE, lending, lendingWithRoots, own, ROOT, TOP } from '@/core/testing/lending';
import { compileLinkRule } from './check-link-rule';
import type { Finding, LinkRule } from './link-rule';

const model = lending();

function problemsOf(definition: LinkRule, within = model): string[] {
  const compiled = compileLinkRule(within, ruleOf(definition, 1));
  return compiled.ok ? [] : compiled.problems.map(({ place, code }) => `${place}: ${code}`);
}

const top = (find: Partial<Extract<Finding, { kind: 'route' }>>): LinkRule => ({
  ...TOP,
  find: { ...TOP.find, ...find } as Finding,
});
const crate = (
  find: Partial<Extract<Finding, { kind: 'match' }>>,
  more: Partial<LinkRule> = {},
): LinkRule => ({
  ...{ ...CRATE, ...more },
  find: { ...CRATE.find, ...find } as Finding,
});

test('the topmost lender, and the crate by its label, are sound', () => {
  expect(problemsOf(TOP)).toEqual([]);
  expect(problemsOf(CRATE)).toEqual([]);
  const compiled = compileLinkRule(model, ruleOf(CRATE, 1));
  expect(compiled).toMatchObject({
    ok: true,
    rule: { kind: 'linked', writes: { type: 'artefact', field: 'crate' } },
  });
});

test.each<[string, LinkRule, string[]]>([
  ['a type that isn’t there', { ...TOP, type: 'painting' }, ['type: rule.type']],
  ['a field that isn’t a link', { ...TOP, target: 'isClosed' }, ['target: rule.target']],
  ['a link that isn’t there', { ...TOP, target: 'under' }, ['target: rule.target']],
  ['a link of a type to itself', { ...TOP, type: 'lender', target: 'partOf' }, ['target: rule.target']],
  ['a way that isn’t there', top({ route: ['keeper'] }), ['find: link.route']],
  ['no way', top({ route: [] }), ['find: link.route']],
  [
    'a way that leads elsewhere',
    { ...TOP, target: 'top', find: { ...top({}).find, route: [] } as Finding },
    ['find: link.route'],
  ],
  ['a hierarchy that isn’t one', top({ topmost: 'loans' }), ['find: link.topmost']],
  ['by nothing', crate({ keys: [] }), ['keys: link.keys']],
  [
    'by more than there may be',
    crate({ keys: Array.from({ length: 9 }, () => ({ field: 'label', value: own('crateLabel') })) }),
    ['keys: link.keys'],
  ],
  [
    'by a field of the other that isn’t there',
    crate({ keys: [{ field: 'mark', value: own('crateLabel') }] }),
    ['keys.0.field: expression.field'],
  ],
  ['by nothing of its own', crate({ keys: [{ field: 'label', value: null }] }), ['keys.0.value: link.keys']],
  [
    'by another kind',
    crate({ keys: [{ field: 'day', value: own('crateLabel') }] }),
    ['keys.0.value: rule.kinds'],
  ],
  [
    'by what hangs on the link itself',
    crate({ keys: [{ field: 'label', value: own('label', 'crate') }] }),
    ['keys.0.value: link.itself'],
  ],
  [
    'where what it links is something',
    { ...TOP, appliesWhen: { kind: 'presence', operator: 'isEmpty', operand: own('title', 'top') } },
    ['appliesWhen: link.itself'],
  ],
  [
    'where it links something',
    { ...TOP, appliesWhen: { kind: 'presence', operator: 'isNotEmpty', operand: own('top') } },
    ['appliesWhen: link.itself'],
  ],
  ['asked though it is always so', crate({}, { holds: 'always' }), ['several: link.ask']],
])('refused: %s', (_, definition, expected) => {
  expect(problemsOf(definition)).toEqual(expected);
});

test('a link of a type to itself names what lies above over another, always, for all and with the save', () => {
  const within = lendingWithRoots();
  const found = (find: Partial<Extract<Finding, { kind: 'route' }>>, more: Partial<LinkRule> = {}) =>
    problemsOf({ ...ROOT, ...more, find: { ...ROOT.find, ...find } as Finding }, within);
  expect(found({})).toEqual([]);
  expect(found({ route: ['partOf', 'partOf'], topmost: null })).toEqual([]);
  const refused = ['target: rule.target'];
  expect(found({ route: ['root'], topmost: null })).toEqual(refused);
  expect(found({ topmost: 'root' })).toEqual(refused);
  expect(found({}, { holds: 'whereEmpty' })).toEqual(refused);
  expect(found({}, { none: 'leave' })).toEqual(refused);
  expect(found({}, { pace: 'soonAfter' })).toEqual(refused);
  const closed = { kind: 'presence', operator: 'isEmpty', operand: own('title') } as const;
  expect(found({}, { appliesWhen: closed })).toEqual(refused);
});

test('a link that people must enter is theirs', () => {
  const required = readModel({
    types: model.types.map((type) => ({
      ...type,
      fields: type.fields.map((field) => (field.key === 'top' ? { ...field, required: true } : field)),
    })),
  });
  expect(problemsOf(TOP, required)).toEqual(['target: rule.target']);
});

test('a condition is asked of what is found, where it applies of the record whose link is filled', () => {
  const sealed: Expression = {
    ...{ kind: 'compare', operator: '=', left: own('sealed') },
    right: { kind: 'constant', value: true },
  };
  expect(problemsOf(crate({ condition: sealed }))).toEqual([]);
  expect(problemsOf({ ...CRATE, appliesWhen: sealed })).toHaveLength(1);
  expect(problemsOf(crate({ several: 'first', order: { field: own('day'), isLast: true } }))).toEqual([]);
  expect(problemsOf(crate({ several: 'first', order: { field: own('age'), isLast: true } }))).toHaveLength(1);
});
