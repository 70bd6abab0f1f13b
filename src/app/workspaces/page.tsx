import { needSession } from '@/app/need-session';
import { WorkspacesPage } from '@/ui/workspaces/workspaces-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Workspaces' };

export default async function Page() {
  await needSession();
  return <WorkspacesPage />;
}
