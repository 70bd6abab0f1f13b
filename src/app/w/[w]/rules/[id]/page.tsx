import { type First, FirstAnswers, firsts } from '@/app/w/first-answers';
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
          { route: '/rules/{id}/versions', params: { id } },
        ];
  return (
    <>
      <FirstAnswers w={w} of={[...firsts('/rules', '/requests', '/proofs', '/sample-families'), ...of]} />
      <RulePage id={id === 'new' ? null : id} />
    </>
  );
}
