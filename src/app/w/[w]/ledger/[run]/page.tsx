import { RunPage } from '@/ui/ledger/run-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Run' };

export default async function Page({ params }: { params: Promise<{ run: string }> }) {
  const { run } = await params;
  return <RunPage run={run} />;
}
