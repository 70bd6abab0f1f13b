import { LedgerPage } from '@/ui/ledger/ledger-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Ledger' };

export default function Page() {
  return <LedgerPage />;
}
