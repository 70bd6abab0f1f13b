import { FirstAnswers, firsts } from '@/app/w/first-answers';
import { RecordsPage } from '@/ui/records/records-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Records' };

export default async function Page({ params }: { params: Promise<{ w: string; type: string }> }) {
  const { w, type } = await params;
  const list = { route: '/records/{type}', params: { type }, query: '?limit=100' } as const;
  return (
    <>
      <FirstAnswers w={w} of={[...firsts('/lists'), list]} />
      <RecordsPage type={type} />
    </>
  );
}
