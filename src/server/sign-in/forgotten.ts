import { log } from '@/server/log';
import type { MessageService } from '@/server/messages/message-service';
import { Refusal } from '@/server/refusal';
import { settings } from '@/server/settings';
import { countForgotten } from './held-back';
import { makeOneTime } from './one-time';
import { noteSecurity } from './security-events';
import type { Client } from './sessions';
import { accountOf } from './sign-in';

/** Minutes for which an address is good that was sent. */
const MINUTES = 30;

/**
 * Whoever has forgotten their password is sent an address by which they choose another. The answer is the same, and as quick, whether there is such an
 * account or not: what there is to do is done after it. Refuses who asks too often from an address; for one account no more than a few are sent.
 */
export async function sendForgotten(email: string, client: Client, service: MessageService): Promise<void> {
  const counted = await countForgotten(email, client.address);
  if (counted === 'address')
    throw new Refusal(429, 'signIn.wait', 'Too many tries. Try again in an hour.', [], { retryAfter: 3_600 });
  if (counted === 'account') return;
  void send(email, client, service).catch((error: unknown) => {
    log.warn({ err: error }, 'an address to choose a password by could not be sent');
  });
}

async function send(email: string, { address }: Client, service: MessageService): Promise<void> {
  const account = await accountOf(email);
  if (!account) return;
  const secret = await makeOneTime({ kind: 'password', person: account.id }, MINUTES);
  await noteSecurity({ kind: 'addressMade', person: account.id, address, data: { way: 'mail' } });
  await service.send({
    to: account,
    subject: 'Choose a new password for Oikon',
    body: [
      `Hello ${account.name},`,
      'somebody asked for this, most likely you: open this address within half an hour, and choose a new password.',
      `${settings().origin}/welcome#${secret}`,
      'If it wasn’t you, there is nothing to do: your password stays as it is.',
    ].join('\n\n'),
  });
}
