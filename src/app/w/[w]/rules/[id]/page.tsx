import { RulePage } from '@/ui/rules/rule-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Rule' };

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <RulePage id={id === 'new' ? null : id} />;
}
