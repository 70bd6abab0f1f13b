import { Refusal } from '@/server/refusal';

/**
 * Only names of this machine are answered, whatever is asked for: a page elsewhere can't reach Oikon by pointing a name of its own at it.
 * Refuses (400) every other value of the header `Host`, and what isn't one.
 */
export function checkHost(host: string | null | undefined): void {
  if (/^(localhost|127\.0\.0\.1|\[::1\])(:\d{1,5})?$/i.test(host ?? '')) return;
  throw new Refusal(
    400,
    'host.unknown',
    'Oikon answers on this machine only. Open it at http://127.0.0.1 with its port.',
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
