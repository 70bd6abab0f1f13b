import { SheetPage } from '@/ui/requests/sheet-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Acceptance sheet' };

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <SheetPage id={id} />;
}
