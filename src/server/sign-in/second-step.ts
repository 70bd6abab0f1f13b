import { Refusal } from '@/server/refusal';
import type { Standing } from './roles';
import type { SignedIn } from './sessions';

/** Refuses whose role wants a second factor where they signed in by one. */
export function checkSecond(standing: Standing | null, factors: SignedIn['factors']): void {
  if (!standing?.wantsSecond || factors === 2) return;
  throw new Refusal(
    403,
    'session.second',
    'What you are in this workspace wants a second step of you: a passkey, or a code after your password. Set one up under your account, and go on.',
  );
}
