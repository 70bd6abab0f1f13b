import { FirstAnswers } from '@/app/w/first-answers';
import { RunPage } from '@/ui/ledger/run-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Run' };

export default async function Page({ params }: { params: Promise<{ w: string; run: string }> }) {
  const { w, run } = await params;
  return (
    <>
      <FirstAnswers w={w} of={[{ route: '/runs/{run}', params: { run } }]} />
      <RunPage run={run} />
    </>
  );
}
