import type { SessionAnswer } from '@/core/api';
import { log } from '@/server/log';
import { Refusal } from '@/server/refusal';
import { messageService } from '@/server/messages/message-services';
import type { ProviderSettings } from '@/server/outside-settings';
import { settings } from '@/server/settings';
import { signedInBy } from '@/server/sign-in/sessions';
import { type Asking, keptCookie } from './asking';

/** Who is signed in, as it is told. */
export const sessionAnswer = (signedIn: Asking['signedIn']): SessionAnswer => ({
  isDemo: settings().isDemo,
  ways: {
    provider: settings().provider?.name ?? null,
    mail: !settings().isDemo && messageService() !== null,
  },
  person: signedIn && { id: signedIn.person, name: signedIn.name, isOperator: signedIn.isOperator },
});

/** The answer to whoever has just signed in: what their browser keeps, and who they are. */
export const entered = async (secret: string) => ({
  ...{ status: 201, cookie: keptCookie(secret) },
  body: sessionAnswer(await signedInBy(secret)),
});

/** In the demo nobody signs in. */
export function refuseInDemo(): void {
  if (settings().isDemo)
    throw new Refusal(
      409,
      'signIn.demo',
      'This is a demo: nobody signs in to it. Choose who you are at the foot of the rail.',
    );
}

/** An answer that leads a browser on, with what it is to keep. */
interface Led {
  readonly to: string;
  readonly cookies: readonly string[];
}

/** What is done with the company's sign-in, where there is one; where it doesn't answer the page for signing in says so. */
export async function visiting(
  visit: (provider: ProviderSettings) => Promise<Led>,
): Promise<{ readonly body: Response }> {
  const { provider } = settings();
  if (!provider)
    throw new Refusal(
      404,
      'signIn.noProvider',
      'This installation has no company’s sign-in. Sign in with your e-mail and your password.',
    );
  const { to, cookies } = await visit(provider).catch((error: unknown) => {
    log.error({ err: error }, 'the company’s sign-in could not be asked');
    return { to: '/sign-in?why=away', cookies: [] };
  });
  const headers = new Headers({ Location: to, 'Cache-Control': 'no-store' });
  cookies.forEach((one) => headers.append('Set-Cookie', one));
  return { body: new Response(null, { status: 302, headers }) };
}

/** Who changes who may what in the workspace of an address. */
export const administering = (w: string, { person, signedIn }: Pick<Asking, 'person' | 'signedIn'>) => ({
  ...{ workspace: w, person },
  isOperator: signedIn?.isOperator ?? false,
});
