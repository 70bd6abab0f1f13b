import { FirstAnswers, firsts } from '@/app/w/first-answers';
import { RulesPage } from '@/ui/rules/rules-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Rules' };

export default async function Page({ params }: { params: Promise<{ w: string }> }) {
  const { w } = await params;
  const retired = { route: '/rules', query: '?retired=true' } as const;
  return (
    <>
      <FirstAnswers w={w} of={[...firsts('/rules', '/proofs', '/requests', '/unfinished-rules'), retired]} />
      <RulesPage />
    </>
  );
}
