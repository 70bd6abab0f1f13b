import { ComparePage } from '@/ui/workspaces/compare-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Compare' };

export default function Page() {
  return <ComparePage />;
}
