import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import Provider from 'oidc-provider';

/** Somebody whom the stand-in knows. */
export interface Known {
  readonly subject: string;
  readonly name: string;
  readonly email: string;
  readonly isVerified?: boolean;
  readonly groups: readonly string[];
}

/** Made-up people. */
export const COLLEAGUES: readonly Known[] = [
  { subject: 'orla', name: 'Orla Finch', email: 'orla@choir.example', groups: ['registrars', 'everybody'] },
  { subject: 'piet', name: 'Piet Heron', email: 'piet@choir.example', groups: ['everybody'] },
  { subject: 'quin', name: 'Quin Unverified', email: 'quin@choir.example', isVerified: false, groups: [] },
];

export interface StandIn {
  /** Where it is: the issuer. */
  readonly issuer: string;
  /** Who is known; a test may change it. */
  readonly known: Known[];
  close(): Promise<void>;
}

interface StandInOptions {
  readonly port: number;
  /** Where Oikon is opened. */
  readonly origin: string;
  readonly client: string;
  readonly secret: string;
}

/** A company's sign-in that asks for no password: one chooses who one is. For trying OpenID Connect, and for tests; it listens on this machine only. */
export async function startStandIn({ port, origin, client, secret }: StandInOptions): Promise<StandIn> {
  const known = [...COLLEAGUES];
  const server = createServer();
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', resolve);
  });
  const issuer = `http://127.0.0.1:${(server.address() as { port: number }).port}`;
  const provider = new Provider(issuer, {
    clients: [
      {
        ...{ client_id: client, client_secret: secret, grant_types: ['authorization_code'] },
        redirect_uris: [`${origin}/api/v1/session/provider/return`],
      },
    ],
    claims: { openid: ['sub'], email: ['email', 'email_verified'], profile: ['name', 'groups'] },
    features: { devInteractions: { enabled: false } },
    cookies: { keys: ['a stand-in keeps nothing'] },
    pkce: { required: () => true },
    interactions: { url: (_context, { uid }) => `/choose/${uid}` },
    findAccount: (_context, subject) => {
      const found = known.find((one) => one.subject === subject);
      if (!found) return undefined;
      const { name, email, isVerified = true, groups } = found;
      return {
        accountId: subject,
        claims: () => ({ sub: subject, name, email, email_verified: isVerified, groups: [...groups] }),
      };
    },
    loadExistingGrant: async (context) => {
      const grant = new context.oidc.provider.Grant({
        ...(context.oidc.client ? { clientId: context.oidc.client.clientId } : {}),
        ...(context.oidc.session?.accountId ? { accountId: context.oidc.session.accountId } : {}),
      });
      grant.addOIDCScope('openid email profile');
      await grant.save();
      return grant;
    },
  });
  const answer = provider.callback();
  server.on('request', (request: IncomingMessage, response: ServerResponse) => {
    if (!request.url?.startsWith('/choose/')) return void answer(request, response);
    choose(provider, known, request, response).catch((error: unknown) => {
      response.writeHead(500).end(String(error));
    });
  });
  return { issuer, known, close: () => closed(server) };
}

const closed = (server: Server): Promise<void> =>
  new Promise((resolve) => {
    server.close(() => resolve());
    server.closeAllConnections();
  });

/** One chooses who one is, by a link. */
async function choose(
  provider: Provider,
  known: readonly Known[],
  request: IncomingMessage,
  response: ServerResponse,
): Promise<void> {
  const { searchParams, pathname } = new URL(request.url ?? '/', 'http://stand-in');
  const subject = searchParams.get('as');
  if (subject === 'nobody')
    return provider.interactionFinished(request, response, {
      error: 'access_denied',
      error_description: 'Nobody was chosen.',
    });
  if (subject !== null)
    return provider.interactionFinished(request, response, {
      login: { accountId: subject, remember: false },
    });
  const links = known.map(({ subject: one, name }) => `<li><a href="${pathname}?as=${one}">${name}</a></li>`);
  response
    .writeHead(200, { 'Content-Type': 'text/html; charset=utf-8' })
    .end(
      `<!doctype html><title>Who are you?</title><h1>Who are you?</h1><ul>${links.join('')}<li><a href="${pathname}?as=nobody">Nobody</a></li></ul>`,
    );
}
