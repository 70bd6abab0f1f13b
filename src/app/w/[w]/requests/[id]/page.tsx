import { RequestPage } from '@/ui/requests/request-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Request' };

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <RequestPage id={id} />;
}
