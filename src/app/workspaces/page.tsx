import { WorkspacesPage } from '@/ui/workspaces/workspaces-page';
import type { Metadata } from 'next';

export const metadata: Metadata = { title: 'Workspaces' };

export default function Page() {
  return <WorkspacesPage />;
}
