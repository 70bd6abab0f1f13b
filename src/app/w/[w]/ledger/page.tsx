import { FirstAnswers, firsts } from '@/app/w/first-answers';
import { LedgerPage } from '@/ui/ledger/ledger-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Ledger' };

export default async function Page({ params }: { params: Promise<{ w: string }> }) {
  const { w } = await params;
  return (
    <>
      <FirstAnswers w={w} of={[...firsts('/rules'), { route: '/runs', query: '?limit=50' }]} />
      <LedgerPage />
    </>
  );
}
