import { SignInPage } from '@/ui/sign-in/sign-in-page';
import type { Metadata } from 'next';
import { Suspense } from 'react';

export const metadata: Metadata = { title: 'Sign in' };

export default function Page() {
  return (
    <Suspense>
      <SignInPage />
    </Suspense>
  );
}
