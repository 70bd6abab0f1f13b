import { TodayPage } from '@/ui/today/today-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Today' };

export default function Page() {
  return <TodayPage />;
}
