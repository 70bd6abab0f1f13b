import { ImportPage } from '@/ui/intake/import-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Import a file' };

export default async function Page({ params }: { params: Promise<{ type: string }> }) {
  return <ImportPage type={(await params).type} />;
}
