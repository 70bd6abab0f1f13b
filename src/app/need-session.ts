import { cookies, headers } from 'next/headers';
import { redirect } from 'next/navigation';
import { cache } from 'react';
import { sessionCookie } from '@/app/api/asking';
import { PATH_HEADER } from '@/server/requests/front';
import { settings } from '@/server/settings';
import { type SignedIn, signedInBy } from '@/server/sign-in/sessions';

/** Who is signed in for whom a page is written; looked up once for each. */
export const sessionHere = cache(async (): Promise<SignedIn | null> => {
  if (settings().isDemo) return null;
  const secret = (await cookies()).get(sessionCookie())?.value;
  return secret === undefined ? null : signedInBy(secret);
});

/** Leads whoever isn't signed in to where they can, and back again; in the demo nobody signs in. */
export async function needSession(): Promise<void> {
  if (settings().isDemo || (await sessionHere())) return;
  const path = (await headers()).get(PATH_HEADER) ?? '/';
  redirect(`/sign-in?to=${encodeURIComponent(path)}`);
}
