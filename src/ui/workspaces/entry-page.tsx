'use client';

import { useEffect } from 'react';
import { useWorkspaces } from '@/ui/api/queries';
import { placePath } from '@/ui/kit/navigation';
import { Loading } from '@/ui/kit/loading';
import { lastWorkspace } from '@/ui/shell/last-workspace';
import { WorkspacesPage } from './workspaces-page';

/** Goes on to the workspace that this browser was in last, or to the first; where there is none, one can be made. */
export function EntryPage() {
  const { data, error } = useWorkspaces();
  const last = data?.workspaces.find(({ key }) => key === lastWorkspace()) ?? data?.workspaces[0];
  useEffect(() => {
    if (last) location.replace(placePath(last.key, '/today'));
  }, [last]);
  if (error || (data && !last)) return <WorkspacesPage />;
  return <Loading what="the workspace" />;
}
