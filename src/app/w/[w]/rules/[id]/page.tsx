import type { RuleView } from '@/core/api';
import { type First, firstAnswer, FirstAnswers, firsts } from '@/app/w/first-answers';
import { RulePage } from '@/ui/rules/rule-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Rule' };

export default async function Page({ params }: { params: Promise<{ w: string; id: string }> }) {
  const { w, id } = await params;
  const of: First[] =
    id === 'new'
      ? []
      : [
          { route: '/rules/{id}', params: { id } },
          { route: '/rules/{id}/proofs', params: { id } },
          { route: '/rules/{id}/proofs/whole', params: { id } },
          { route: '/rules/{id}/versions', params: { id } },
          ...(await samples(w, id)),
        ];
  return (
    <>
      <FirstAnswers
        w={w}
        of={[...firsts('/rules', '/requests', '/proofs', '/sample-families', '/unfinished-rules'), ...of]}
      />
      <RulePage id={id === 'new' ? null : id} />
    </>
  );
}

/** The records of the type that the rule is on, as its worked example asks for them. */
async function samples(w: string, id: string): Promise<First[]> {
  const rule = (await firstAnswer(w, { route: '/rules/{id}', params: { id } })) as RuleView | null;
  return rule
    ? [{ route: '/records/{type}', params: { type: rule.definition.type }, query: '?limit=50' }]
    : [];
}
