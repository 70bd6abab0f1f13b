import { JoinedPage } from '@/ui/records/joined-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Joined selections' };

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  return <JoinedPage id={(await params).id} />;
}
