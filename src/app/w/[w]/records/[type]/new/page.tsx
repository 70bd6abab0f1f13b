import { NewRecordPage } from '@/ui/records/new-record-page';
import type { Metadata } from 'next';
import { Suspense } from 'react';

export const metadata: Metadata = { title: 'New record' };

export default async function Page({ params }: { params: Promise<{ type: string }> }) {
  const { type } = await params;
  return (
    <Suspense>
      <NewRecordPage type={type} />
    </Suspense>
  );
}
