import type { SessionAnswer } from '@/core/api';
import { Refusal } from '@/server/refusal';
import { settings } from '@/server/settings';
import { signedInBy } from '@/server/sign-in/sessions';
import { type Asking, keptCookie } from './asking';

/** Who is signed in, as it is told. */
export const sessionAnswer = (signedIn: Asking['signedIn']): SessionAnswer => ({
  isDemo: settings().isDemo,
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

/** Who changes who may what in the workspace of an address. */
export const administering = (w: string, { person, signedIn }: Asking) => ({
  ...{ workspace: w, person },
  isOperator: signedIn?.isOperator ?? false,
});
