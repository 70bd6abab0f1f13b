import { QueryTypes } from 'sequelize';
import { database } from '@/server/database/connection';
import { log } from '@/server/log';
import { messageService } from '@/server/messages/message-services';
import { settings } from '@/server/settings';

/** What is told to whose account it is (ASVS 2.2.3). */
const WORDS = {
  password: 'Your password was changed.',
  secondFactor: 'A second step was set up for your account.',
  noSecondFactor: 'The second step of your account was taken away.',
  passkey: 'A passkey was made for your account.',
} as const;

/** Tells somebody by mail that their account was changed, where the installation sends mail. Nothing waits for it, and nothing fails by it. */
export function tellOwner(person: string, what: keyof typeof WORDS): void {
  const service = messageService();
  if (!service || settings().isDemo) return;
  const tell = async () => {
    const [to] = await database().query<{ id: string; name: string; email: string }>(
      'SELECT id::text, name, email FROM person WHERE id = $1 AND NOT is_service',
      { bind: [person], type: QueryTypes.SELECT },
    );
    if (!to) return;
    const body = [
      `Hello ${to.name},`,
      WORDS[what],
      `If it wasn’t you, tell whoever sees to Oikon at once: ${settings().origin}`,
    ];
    await service.send({ to, subject: 'Your account at Oikon was changed', body: body.join('\n\n') });
  };
  void tell().catch((error: unknown) => {
    log.warn({ err: error }, 'somebody could not be told of a change of their account');
  });
}
