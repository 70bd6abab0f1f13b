import type { Rule } from '@/core/rules';
import { galleries, gbp, INSURED_TOTAL, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { proofOf } from '@/core/testing/proofs';
import { Refusal } from '@/server/refusal';
import { refusal } from '@/server/testing/refusal';
import { searchStrength } from './strength';
import { endThreads } from './threads';

const model = galleries();
const [silk, one] = [uuid('11'), uuid('21')];
const rule: Rule = ruleOf(INSURED_TOTAL, 1, 'Insured total');
const proof = proofOf(
  model,
  rule.id,
  [
    rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk' }),
    rowOf(model, 'loan', one, { title: 'Robes', exhibition: silk, stage: 'agreed', insuredValue: gbp(100) }),
  ],
  {
    expectations: [
      {
        ...{ kind: 'becomes', type: 'exhibition', id: silk, field: 'insuredTotal' },
        value: { amount: '100', currency: 'GBP' },
      },
    ],
  },
);
const task = { model, rules: [rule], rule, proofs: [proof] };
afterAll(endThreads);

test('the search runs in a thread of its own, tells how far it is, and finds cases', async () => {
  const phases = new Set<string>();
  let turns = 0;
  let isDone = false;
  const others = (async () => {
    while (!isDone) {
      turns += 1;
      await new Promise(setImmediate);
    }
  })();
  const strength = await searchStrength(task, ({ phase }) => void phases.add(phase)).finally(() => {
    isDone = true;
  });
  await others;
  expect(strength.tried).toBeGreaterThan(strength.noticed);
  expect(strength.cases[0]!.notices).not.toEqual([]);
  expect(phases.size).toBeGreaterThan(0);
  expect(turns).toBeGreaterThan(100);
});

test('it ends where nobody waits any more, and where it takes too long; the next is searched all the same', async () => {
  const gone = new Refusal(409, 'stopped', 'It was stopped.');
  const tell = () => {
    throw gone;
  };
  expect(await refusal(searchStrength(task, tell))).toBe(gone);
  expect(await refusal(searchStrength(task, () => undefined, 0))).toMatchObject({ code: 'strength.time' });
  expect((await searchStrength(task, () => undefined)).tried).toBeGreaterThan(0);
});
