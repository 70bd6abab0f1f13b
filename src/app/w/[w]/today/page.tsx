import { FirstAnswers, firsts } from '@/app/w/first-answers';
import { TodayPage } from '@/ui/today/today-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Today' };

export default async function Page({ params }: { params: Promise<{ w: string }> }) {
  const { w } = await params;
  return (
    <>
      <FirstAnswers
        w={w}
        of={firsts(
          '/approvals',
          '/notices',
          '/queued-saves',
          '/rules',
          '/proofs',
          '/requests',
          '/unfinished-rules',
        )}
      />
      <TodayPage />
    </>
  );
}
