import { ReviewPage } from '@/ui/rules/review-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Review' };

export default function Page() {
  return <ReviewPage />;
}
