import { ruleOf, uuid } from '@/core/testing/galleries';
import { CRATE, lending, TOP } from '@/core/testing/lending';
import { compileLinkRule } from './check-link-rule';
import { type LinkRule, type Rule, sentenceOf } from '@/core/rules';

const model = lending();
const saidOf = (definition: LinkRule): string => {
  const result = compileLinkRule(model, ruleOf(definition, 1) as Rule<LinkRule>);
  expect(result.ok || result.problems).toBe(true);
  return result.ok ? sentenceOf(model, result.rule, (id) => (id === uuid('2') ? 'Farid' : undefined)) : '';
};

it('a link rule is said as one sentence, whole', () => {
  expect(saidOf(TOP)).toMatchInlineSnapshot(
    `"On every Loan, keep Top lender linked to the topmost over Part of from its Lender. When none is found: emptied. With the save."`,
  );
  expect(saidOf(CRATE)).toMatchInlineSnapshot(
    `"On every Artefact, where it is empty, link Crate to the Crate with the same Label as Crate label, whatever the case. Of several: a person is asked. When none is found: left as it is. With the save."`,
  );
});

it('says who is written to, before its pace', () => {
  expect(saidOf({ ...CRATE, tells: uuid('2') })).toMatch(/Farid is written to\. With the save\.$/);
});
