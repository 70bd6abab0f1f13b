import { FirstAnswers, firsts } from '@/app/w/first-answers';
import { ModelPage } from '@/ui/model/model-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Model' };

export default async function Page({ params }: { params: Promise<{ w: string }> }) {
  const { w } = await params;
  return (
    <>
      <FirstAnswers w={w} of={firsts('/rules')} />
      <ModelPage />
    </>
  );
}
