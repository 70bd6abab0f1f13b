import { RecordPage } from '@/ui/records/record-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Record' };

export default async function Page({ params }: { params: Promise<{ type: string; id: string }> }) {
  const { type, id } = await params;
  return <RecordPage type={type} id={id} />;
}
