import { RecordsPage } from '@/ui/records/records-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Records' };

export default function Page() {
  return <RecordsPage type={null} />;
}
