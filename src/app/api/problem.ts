import { isConnectionLost } from '@/server/database/connection';
import { log } from '@/server/log';
import { Refusal } from '@/server/refusal';
import { requestContext } from '@/server/store/session/request-context';

const TITLES: Record<number, string> = {
  400: 'The request can’t be read',
  401: 'Who acts isn’t known',
  403: 'Not allowed',
  404: 'Not found',
  405: 'Not possible here',
  408: 'The rest didn’t come',
  409: 'It doesn’t fit what is there now',
  413: 'The request is too large',
  415: 'Of another content type',
  422: 'What was sent can’t be accepted',
  429: 'Too often',
  503: 'Busy',
};

/** A problem detail (RFC 9457). */
export function problem(status: number, body: Record<string, unknown>): Response {
  const headers: Record<string, string> = {
    'Content-Type': 'application/problem+json',
    'Cache-Control': 'no-store',
  };
  const retryAfter = (body.data as { retryAfter?: number } | undefined)?.retryAfter;
  if (retryAfter !== undefined) headers['Retry-After'] = String(retryAfter);
  return new Response(
    JSON.stringify({
      type: `urn:oikon:problem:${body.code as string}`,
      title: TITLES[status] ?? 'Problem',
      status,
      ...body,
    }),
    { status, headers },
  );
}

/** What went wrong as a problem detail. What the request has saved by then is told, whatever failed afterwards. */
export function problemOf(request: Request, error: unknown): Response {
  if (error instanceof Refusal && !hasSaved()) return refused(error);
  return failed(request, error);
}

const hasSaved = (): boolean => requestContext()?.hasSaved === true;

const refused = ({ status, code, message, parts, data }: Refusal): Response =>
  problem(status, {
    code,
    detail: message,
    ...(parts.length > 0 ? { errors: parts } : {}),
    ...(Object.keys(data).length > 0 ? { data } : {}),
  });

function failed(request: Request, error: unknown): Response {
  const isAway = isConnectionLost(error);
  const about = { err: error, url: request.url, method: request.method };
  if (isAway) log.error(about, 'the database is away');
  else log.error(about, 'a request failed');
  if (hasSaved())
    return problem(503, {
      ...{ title: 'Saved, but not told', code: 'save.untold' },
      detail:
        'It was saved, but what came of it couldn’t be read any more. Don’t send it again: reload to see how it stands.',
    });
  if (isAway)
    return problem(503, {
      code: 'database.away',
      detail: 'The database can’t be reached right now. Nothing was saved; try again in a moment.',
    });
  return problem(500, {
    title: 'Something went wrong',
    code: 'internal',
    detail: 'Oikon failed at this request; nothing was saved. The server’s log says more.',
  });
}
