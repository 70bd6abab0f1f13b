'use client';

import type { RoleView } from '@/core/api';
import { useParams } from 'next/navigation';
import { useSyncExternalStore } from 'react';
import { openPage } from './open-page';
import { usePeople } from './queries';
import { SEE_AS_COOKIE } from './see-as-cookie';

const never = () => () => undefined;

const kept = (): string =>
  document.cookie
    .split('; ')
    .find((one) => one.startsWith(`${SEE_AS_COOKIE}=`))
    ?.slice(SEE_AS_COOKIE.length + 1) ?? '';

/** Looks at a workspace as a role does from now on, or as oneself again; the page is opened anew. */
export function seeAs(workspace: string, role: string | null): void {
  document.cookie =
    role === null
      ? `${SEE_AS_COOKIE}=; path=/; samesite=lax; max-age=0`
      : `${SEE_AS_COOKIE}=${workspace}:${role}; path=/; samesite=lax`;
  openPage(role === null ? `/w/${workspace}/settings` : `/w/${workspace}/records`);
}

/** The role as which the workspace is looked at; `null`: as oneself. */
export function useSeenAs(): RoleView | null {
  const { w: workspace } = useParams<{ w?: string }>();
  const { data } = usePeople();
  const value = useSyncExternalStore(never, kept, () => '');
  const [where, role] = value.split(':');
  return where === workspace ? (data?.roles.find(({ key }) => key === role) ?? null) : null;
}
