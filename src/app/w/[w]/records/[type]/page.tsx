import { RecordsPage } from '@/ui/records/records-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Records' };

export default async function Page({ params }: { params: Promise<{ type: string }> }) {
  return <RecordsPage type={(await params).type} />;
}
