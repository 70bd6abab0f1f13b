import { needSession } from '@/app/need-session';
import { SecondStepPage } from '@/ui/sign-in/second-step-page';
import type { Metadata } from 'next';
import { Suspense } from 'react';

export const metadata: Metadata = { title: 'A second step' };

export default async function Page() {
  await needSession();
  return (
    <Suspense>
      <SecondStepPage />
    </Suspense>
  );
}
