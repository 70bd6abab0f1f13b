import { needSession } from '@/app/need-session';
import { EntryPage } from '@/ui/workspaces/entry-page';

export default async function Page() {
  await needSession();
  return <EntryPage />;
}
