import { type First, FirstAnswers } from '@/app/w/first-answers';
import { RecordPage } from '@/ui/records/record-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Record' };

interface Props {
  readonly params: Promise<{ w: string; type: string; id: string }>;
}

export default async function Page({ params }: Props) {
  const { w, type, id } = await params;
  const of: First[] = [
    { route: '/records/{type}/{id}', params: { type, id }, query: '?bin=true' },
    { route: '/records/{type}/{id}/followers', params: { type, id } },
    { route: '/records/{type}/{id}/history', params: { type, id } },
  ];
  return (
    <>
      <FirstAnswers w={w} of={of} />
      <RecordPage type={type} id={id} />
    </>
  );
}
