import { ModelPage } from '@/ui/model/model-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Model' };

export default function Page() {
  return <ModelPage />;
}
