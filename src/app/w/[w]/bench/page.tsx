import { BenchPage } from '@/ui/bench/bench-page';
import type { Metadata } from 'next';
import { Suspense } from 'react';

export const metadata: Metadata = { title: 'Bench' };

export default function Page() {
  return (
    <Suspense>
      <BenchPage />
    </Suspense>
  );
}
