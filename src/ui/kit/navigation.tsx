'use client';

import { Button, type ButtonProps } from 'antd';
import NextLink from 'next/link';
import { useParams, usePathname, useRouter as useNextRouter } from 'next/navigation';
import { type ComponentProps, useMemo } from 'react';
import { isHeld, leave } from './unsaved';

/** The key of the workspace that the page is about, from its address. */
export const useWorkspaceKey = (): string => useParams<{ w: string }>().w;

/** The address of a place in a workspace: `/rules` → `/w/wrenfield/rules`. */
export const placePath = (workspace: string, path: string): string => `/w/${workspace}${path}`;

type LinkProps = Omit<ComponentProps<typeof NextLink>, 'href'> & { readonly href: string };

/** A link to a place in the workspace that the page is about. Where something isn't saved it is asked first. */
export function Link({ href, onClick, onMouseEnter, onFocus, ...others }: LinkProps) {
  const router = useNextRouter();
  const address = placePath(useWorkspaceKey(), href);
  return (
    <NextLink
      {...others}
      href={address}
      // Dozens are in sight at once: what one is about to open is got ready, and nothing else.
      prefetch={false}
      onMouseEnter={(event) => {
        onMouseEnter?.(event);
        router.prefetch(address);
      }}
      onFocus={(event) => {
        onFocus?.(event);
        router.prefetch(address);
      }}
      onClick={(event) => {
        onClick?.(event);
        const isElsewhere = event.metaKey || event.ctrlKey || event.shiftKey || event.altKey;
        if (event.defaultPrevented || isElsewhere || others.target || !isHeld()) return;
        event.preventDefault();
        leave(() => router.push(address));
      }}
    />
  );
}

type ButtonLinkProps = Omit<ButtonProps, 'href'> & {
  readonly href: string;
  /** Why whoever acts may not go there, in words. */
  readonly whyNot?: string | null;
};

/** A link to a place in the workspace that looks like a button, and is one stop for whoever goes by keys. Where something isn't saved it is asked first. */
export function ButtonLink({ href, onClick, whyNot = null, ...others }: ButtonLinkProps) {
  const router = useNextRouter();
  const address = placePath(useWorkspaceKey(), href);
  const prepare = () => router.prefetch(address);
  if (whyNot !== null) return <Button {...others} disabled title={whyNot} />;
  return (
    <Button
      {...others}
      href={address}
      onMouseEnter={prepare}
      onFocus={prepare}
      onClick={(event) => {
        onClick?.(event);
        const isElsewhere = event.metaKey || event.ctrlKey || event.shiftKey || event.altKey;
        if (event.defaultPrevented || isElsewhere) return;
        event.preventDefault();
        leave(() => router.push(address));
      }}
    />
  );
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
