import { FirstAnswers, firsts } from '@/app/w/first-answers';
import { RequestsPage } from '@/ui/requests/requests-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Requests' };

export default async function Page({ params }: { params: Promise<{ w: string }> }) {
  const { w } = await params;
  return (
    <>
      <FirstAnswers w={w} of={firsts('/requests')} />
      <RequestsPage />
    </>
  );
}
