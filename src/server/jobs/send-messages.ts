import type { MessageService } from '../message-service';
import { simulatedOutbox } from '@/standins/simulated-outbox';
import { database } from '../database/connection';
import { log } from '../log';
import { serviceNamed } from '../service-named';
import { quote, run } from '../store/sql';
import { loadWorkspace } from '../store/workspace';

const SERVICES: readonly MessageService[] = [simulatedOutbox];

/** The service that the installation names in OIKON_MESSAGE_SERVICE; `null` where it names none. Refuses one that isn't there. */
export const messageService = (): MessageService | null => serviceNamed('OIKON_MESSAGE_SERVICE', SERVICES);

/** Most times that a message is tried. */
const TRIES = 8;
const AT_ONCE = 50;

/**
 * Sends what runs left for people: each in a transaction of its own, so that what was sent is noted and what wasn't is tried again. Where two
 * processes send, each takes other messages.
 */
export async function sendMessages(key: string, service: MessageService): Promise<number> {
  const { schema, people } = await loadWorkspace(key);
  const table = `${quote(schema)}._message`;
  let sent = 0;
  for (let number = 0; number < AT_ONCE; number += 1) {
    const isMore = await database().transaction(async (transaction) => {
      const [message] = await run<{ id: string; person: string; subject: string; body: string }>(
        transaction,
        `SELECT id::text, person::text, subject, body FROM ${table} WHERE sent_at IS NULL AND tries < $1
          ORDER BY tries, id LIMIT 1 FOR UPDATE SKIP LOCKED`,
        [TRIES],
      );
      if (!message) return false;
      const { id, person, subject, body } = message;
      const failure = await service
        .send({ to: { id: person, name: people.get(person) ?? person }, subject, body })
        .then(
          () => null,
          (error: unknown) => (error instanceof Error ? error.message : String(error)),
        );
      if (failure === null) sent += 1;
      else
        log.warn({ workspace: key, message: id, failure }, 'a message could not be sent; it is tried again');
      await run(
        transaction,
        `UPDATE ${table} SET tries = tries + 1, failure = $2, sent_at = CASE WHEN $2::text IS NULL THEN clock_timestamp() END WHERE id = $1`,
        [id, failure],
      );
      // What failed is left for the next time.
      return failure === null;
    });
    if (!isMore) break;
  }
  return sent;
}
