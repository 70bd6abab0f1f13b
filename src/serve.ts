import type { ProblemCode } from '@/core/values';
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import next from 'next';
import { log } from './server/log';
import { Refusal } from './server/refusal';
import { checkHost, checkTarget } from './server/requests/front';

/** Seconds that requests have to end once the server is told to stop. */
const LEAVE = 10;

/**
 * Serves the built application on loopback: `tsx src/serve.ts PORT`. Whatever isn't asked for by a name of this machine is refused before
 * anything else looks at it, pages and files like the API.
 */
async function serve(port: number): Promise<void> {
  const hostname = '127.0.0.1';
  const application = next({ dev: false, hostname, port });
  await application.prepare();
  const handle = application.getRequestHandler();
  const server = createServer((request, response) => {
    if (!isReadable(request, response)) return;
    response.once('finish', () => dropRest(request));
    handle(request, response).catch((error: unknown) => {
      log.error({ err: error, url: request.url }, 'a request failed outside of any route');
      if (!response.headersSent) answer(response, 500, 'internal', 'Oikon failed at this request.');
      response.end();
    });
  });
  // How long a body may take is each route's to say: a large file comes in as slowly as its client's line is.
  server.requestTimeout = 0;
  server.keepAliveTimeout = 30_000;
  for (const signal of ['SIGINT', 'SIGTERM'] as const)
    process.once(signal, () => {
      server.close(() => process.exit(0));
      setTimeout(() => process.exit(0), LEAVE * 1_000).unref();
      server.closeIdleConnections();
    });
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, hostname, resolve);
  });
  log.info({ port }, 'Oikon serves');
}

/** Seconds that a client has to read its answer where it hasn't sent all of its body. */
const LINGER = 2;

/** What still comes of a body that was refused, or that its client never ended, isn't waited for. */
function dropRest(request: IncomingMessage): void {
  if (request.complete) return;
  request.resume();
  setTimeout(() => {
    if (!request.complete) request.socket.destroy();
  }, LINGER * 1_000).unref();
}

function isReadable(request: IncomingMessage, response: ServerResponse): boolean {
  try {
    checkHost(request.headers.host);
    checkTarget(request.method, request.url);
    return true;
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    answer(response, error.status, error.code, error.message);
    return false;
  }
}

function answer(response: ServerResponse, status: number, code: ProblemCode, detail: string): void {
  response.writeHead(status, {
    ...{ 'Content-Type': 'application/problem+json', 'Cache-Control': 'no-store', Connection: 'close' },
  });
  const title = status === 500 ? 'Something went wrong' : 'The request can’t be read';
  response.end(JSON.stringify({ type: `urn:oikon:problem:${code}`, title, status, code, detail }));
}

const port = Number(process.argv[2]);
if (!Number.isInteger(port) || port < 1 || port > 65_535) {
  console.error(`The port should be a whole number from 1 to 65535, found “${process.argv[2] ?? ''}”.`);
  process.exit(2);
}
serve(port).catch((error: unknown) => {
  log.fatal({ err: error }, 'Oikon could not start');
  process.exit(1);
});
