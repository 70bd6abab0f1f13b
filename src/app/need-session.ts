import { cookies, headers } from 'next/headers';
import { redirect } from 'next/navigation';
import { cache } from 'react';
import { sessionCookie } from '@/app/api/asking';
import { PATH_HEADER } from '@/server/requests/front';
import { settings } from '@/server/settings';
import { type SignedIn, signedInBy } from '@/server/sign-in/sessions';

/** Who is signed in for whom a page is written; looked up once for each. */
export const sessionHere = cache(async (workspace: string | null = null): Promise<SignedIn | null> => {
  if (settings().isDemo) return null;
  const secret = (await cookies()).get(sessionCookie())?.value;
  return secret === undefined ? null : signedInBy(secret, workspace);
});

/** Leads whoever isn't signed in to where they can, and whose role in the workspace wants a second step to where they set it up; and back again. In the demo nobody signs in. */
export async function needSession(workspace: string | null = null): Promise<void> {
  if (settings().isDemo) return;
  const session = await sessionHere(workspace);
  const wantsSecond = session?.standing?.wantsSecond === true && session.factors < 2;
  if (session && !wantsSecond) return;
  const path = (await headers()).get(PATH_HEADER) ?? '/';
  redirect(`${session ? '/second-step' : '/sign-in'}?to=${encodeURIComponent(path)}`);
}
