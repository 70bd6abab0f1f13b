import { withChecks } from '@/core/testing/checks';
import { fieldOf, INSURED_TOTAL, rollUp, ruleOf, stageIs } from '@/core/testing/galleries';
import { compileRule, forOtherParents, type RollUp } from '@/core/rules';

const model = withChecks();
/** How many checks of a loan there are, of those whose loan is agreed. */
const CHECKS: RollUp = rollUp({
  ...{ type: 'loan', target: 'weight', aggregate: 'count', whenNone: '0' },
  route: [{ direction: 'down', type: 'check', link: 'loan' }],
  condition: {
    ...{ kind: 'group', operator: 'all' },
    of: [{ kind: 'presence', operator: 'isNotEmpty', operand: fieldOf('weight', 'loan') }],
  },
});

test('a rule over an open link is the same for the other types that it may name, over their links', () => {
  const [other, ...more] = forOtherParents(model, CHECKS);
  expect(more).toEqual([]);
  expect(other).toMatchObject({ type: 'artefact', missing: [] });
  expect(other!.definition).toMatchObject({
    ...{ type: 'artefact', target: 'weight', aggregate: 'count' },
    route: [{ direction: 'down', type: 'check', link: 'artefact' }],
    condition: { of: [{ operand: { route: ['artefact'], field: 'weight' } }] },
  });
  expect(compileRule(model, ruleOf(other!.definition!, 1))).toMatchObject({ ok: true });
  // And back again it is the rule that it came from.
  expect(forOtherParents(model, other!.definition!)[0]!.definition).toEqual(CHECKS);
});

test('fields that the other type hasn’t are named', () => {
  const counted = forOtherParents(model, { ...CHECKS, target: 'artefactCount', condition: null });
  expect(counted).toEqual([{ type: 'artefact', definition: null, missing: ['artefactCount'] }]);
  const own = forOtherParents(model, { ...CHECKS, own: { standsIn: fieldOf('insuredValue') } });
  expect(own[0]!.missing).toEqual(['insuredValue']);
});

test('a rule over any other link, or with further records, has no other', () => {
  expect(forOtherParents(model, INSURED_TOTAL)).toEqual([]);
  const also = [{ route: CHECKS.route, value: null, condition: stageIs('agreed') }];
  expect(forOtherParents(model, { ...CHECKS, also })).toEqual([]);
});
