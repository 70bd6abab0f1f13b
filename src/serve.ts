import type { ProblemCode } from '@/core/values';
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import next from 'next';
import proxyAddr from 'proxy-addr';
import { checkTables, UnfitTables } from './server/database/migrate';
import { log } from './server/log';
import { Refusal } from './server/refusal';
import { checkHost, checkTarget, CLIENT_HEADER, NONCE_HEADER, PATH_HEADER } from './server/requests/front';
import { FILE_POLICY, newNonce, pagePolicy, safeHeaders } from './server/requests/headers';
import { type Settings, settings, WrongSettings } from './server/settings';
import { FIRST_MINUTES, hasAdministrator } from './server/sign-in/choose-password';
import { makeOneTime } from './server/sign-in/one-time';

/** Seconds that requests have to end once the server is told to stop. */
const LEAVE = 10;

/**
 * Serves the built application: `tsx src/serve.ts`, or `tsx src/serve.ts PORT`. Whatever isn't asked for by the name under which it is opened is refused
 * before anything else looks at it, pages and files like the API.
 */
async function serve(given: Settings, port: number): Promise<void> {
  const { host: hostname, origin, isDemo } = given;
  process.env.DATABASE_URL = given.databaseUrl;
  await checkTables();
  const application = next({ dev: false, hostname, port });
  await application.prepare();
  const handle = application.getRequestHandler();
  const always = Object.entries(safeHeaders(origin?.startsWith('https:') === true));
  const server = createServer((request, response) => {
    for (const [name, value] of always) response.setHeader(name, value);
    if (!isReadable(request, response)) return;
    markRequest(request, response, given);
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
  log.info({ port, hostname }, 'Oikon serves');
  if (!isDemo && !(await hasAdministrator())) await tellFirstAddress(given);
}

/** Nobody can sign in yet: whoever reads what the server writes makes the first account. */
async function tellFirstAddress({ origin }: Settings): Promise<void> {
  const secret = await makeOneTime({ kind: 'administrator', person: null }, FIRST_MINUTES);
  process.stdout.write(
    `Nobody can sign in yet. Make the first administrator here, within an hour:\n  ${origin}/welcome#${secret}\n`,
  );
}

/** Says of a request who asks and for what, as only the server itself may; and of a page which scripts are its own. */
function markRequest(request: IncomingMessage, response: ServerResponse, { trusts }: Settings): void {
  for (const name of Object.keys(request.headers))
    if (name.startsWith('x-oikon-')) delete request.headers[name];
  request.headers[CLIENT_HEADER] = proxyAddr(request, trusts);
  request.headers[PATH_HEADER] = request.url ?? '/';
  if (request.url?.startsWith('/api/') || request.url?.startsWith('/_next/static/')) {
    response.setHeader('Content-Security-Policy', FILE_POLICY);
    return;
  }
  const nonce = newNonce();
  const policy = pagePolicy(nonce);
  request.headers[NONCE_HEADER] = nonce;
  // The application reads the nonce there, and gives it to the scripts that it writes into the page.
  request.headers['content-security-policy'] = policy;
  response.setHeader('Content-Security-Policy', policy);
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
    checkHost(request.headers.host, request.url === '/health');
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

function start(): void {
  let given: Settings;
  try {
    given = settings();
  } catch (error) {
    if (!(error instanceof WrongSettings)) throw error;
    console.error(
      `Oikon can’t start with these settings:\n${error.lines.map((one) => `  ${one}`).join('\n')}`,
    );
    process.exit(2);
  }
  const [, , asked] = process.argv;
  const port = asked === undefined ? given.port : Number(asked);
  if (!Number.isInteger(port) || port < 1 || port > 65_535) {
    console.error(`The port should be a whole number from 1 to 65535, found “${asked}”.`);
    process.exit(2);
  }
  serve(given, port).catch((error: unknown) => {
    if (error instanceof UnfitTables) console.error(error.message);
    else log.fatal({ err: error }, 'Oikon could not start');
    process.exit(1);
  });
}

start();
