import { EntryPage } from '@/ui/workspaces/entry-page';

export default function Page() {
  return <EntryPage />;
}
