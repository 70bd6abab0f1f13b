import { DictionaryPage } from '@/ui/model/dictionary/dictionary-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Dictionary' };

export default function Page() {
  return <DictionaryPage />;
}
