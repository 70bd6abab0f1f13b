import { Refusal } from '@/server/refusal';
import { isLoopback, settings } from '@/server/settings';

/** What the server itself says of who asks; what comes in by this name is dropped. */
export const CLIENT_HEADER = 'x-oikon-client';
/** A page asks for what it brings along: nothing that this answer has a browser keep comes to it. */
export const PAGE_HEADER = 'x-oikon-page';
/** The path of the page that is asked for, for pages that lead to signing in and back. */
export const PATH_HEADER = 'x-oikon-path';
/** The mark of scripts that the server itself wrote into the page that is asked for. */
export const NONCE_HEADER = 'x-oikon-nonce';

/**
 * Only the name is answered under which Oikon is opened, whatever is asked for: a page elsewhere can't reach it by pointing a name of its own at it. In
 * the demo these are the names of this machine. Refuses (400) every other value of the header `Host`, and what isn't one.
 */
export function checkHost(host: string | null | undefined, isProbe = false): void {
  const { origin } = settings();
  const [, name = ''] = /^([a-z0-9.-]+|\[[0-9a-f:]+\])(?::\d{1,5})?$/i.exec(host ?? '') ?? [];
  // A machine may always ask itself whether Oikon is there.
  if ((origin === null || isProbe) && isLoopback(name)) return;
  if (origin !== null && host?.toLowerCase() === new URL(origin).host) return;
  throw new Refusal(
    400,
    'host.unknown',
    origin === null
      ? 'Oikon answers on this machine only. Open it at http://127.0.0.1 with its port.'
      : `Oikon answers under its own name only. Open it at ${origin}.`,
  );
}

const METHODS: ReadonlySet<string> = new Set(['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE', 'OPTIONS']);

/** Refuses what the application can't read as a request: other methods, an address that isn't a path, or is wrongly encoded. */
export function checkTarget(method: string | undefined, target: string | undefined): void {
  if (!METHODS.has(method ?? ''))
    throw new Refusal(
      405,
      'method.unknown',
      `${method} isn’t possible here. Use ${[...METHODS].join(', ')}.`,
    );
  const [path = ''] = (target ?? '').split('?');
  try {
    if (!path.startsWith('/') || path.startsWith('//')) throw new URIError('not a path');
    decodeURIComponent(path);
  } catch {
    throw new Refusal(
      400,
      'address.form',
      'The address can’t be read: it should be a path such as /api/v1/workspaces, in UTF-8 with %-codes. Correct it.',
    );
  }
}
