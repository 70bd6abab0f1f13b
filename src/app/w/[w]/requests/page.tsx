import { RequestsPage } from '@/ui/requests/requests-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Requests' };

export default function Page() {
  return <RequestsPage />;
}
