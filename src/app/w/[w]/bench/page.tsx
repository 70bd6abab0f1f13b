import { FirstAnswers, firsts } from '@/app/w/first-answers';
import { BenchPage } from '@/ui/bench/bench-page';
import type { Metadata } from 'next';
import { Suspense } from 'react';

export const metadata: Metadata = { title: 'Bench' };

export default async function Page({ params }: { params: Promise<{ w: string }> }) {
  const { w } = await params;
  return (
    <>
      <FirstAnswers w={w} of={firsts('/rules', '/sample-families')} />
      <Suspense>
        <BenchPage />
      </Suspense>
    </>
  );
}
