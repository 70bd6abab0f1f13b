'use client';

import NextLink from 'next/link';
import { useParams, usePathname, useRouter as useNextRouter } from 'next/navigation';
import { type ComponentProps, useMemo } from 'react';

/** The key of the workspace that the page is about, from its address. */
export const useWorkspaceKey = (): string => useParams<{ w: string }>().w;

/** The address of a place in a workspace: `/rules` → `/w/wrenfield/rules`. */
export const placePath = (workspace: string, path: string): string => `/w/${workspace}${path}`;

type LinkProps = Omit<ComponentProps<typeof NextLink>, 'href'> & { readonly href: string };

/** A link to a place in the workspace that the page is about. */
export function Link({ href, ...others }: LinkProps) {
  return <NextLink {...others} href={placePath(useWorkspaceKey(), href)} />;
}

/** Goes to places in the workspace that the page is about. */
export function useRouter(): { push(path: string): void; replace(path: string): void } {
  const router = useNextRouter();
  const workspace = useWorkspaceKey();
  return useMemo(
    () => ({
      push: (path) => router.push(placePath(workspace, path)),
      replace: (path) => router.replace(placePath(workspace, path)),
    }),
    [router, workspace],
  );
}

/** The place that the page is, without its workspace: `/rules`. */
export const usePlace = (): string => usePathname().replace(/^\/w\/[^/]+/, '');
