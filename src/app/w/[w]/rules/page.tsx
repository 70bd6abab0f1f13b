import { RulesPage } from '@/ui/rules/rules-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Rules' };

export default function Page() {
  return <RulesPage />;
}
