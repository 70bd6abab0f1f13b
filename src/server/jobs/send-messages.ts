import type { MessageService } from '@/server/messages/message-service';
import { log } from '@/server/log';
import { quote, runAlone } from '@/server/store/sql/sql';
import { loadWorkspace } from '@/server/store/session/workspace';
import { within } from '@/server/within';

const MINUTE = 60;
const HOUR = 60 * MINUTE;

/** Seconds after its first try in which a message is tried again; then a person decides (Today). */
const GIVEN_UP_AFTER = 72 * HOUR;

/** Seconds until a message is tried again after so many tries: 1, 2, 4 … minutes, six hours at most. */
export const pauseAfter = (tries: number): number => Math.min(MINUTE * 2 ** Math.max(0, tries - 1), 6 * HOUR);

/** Seconds that a service has for one message; afterwards another process may take it on. */
const LEASE = 5 * MINUTE;
const AT_ONCE = 50;

interface Taken {
  readonly id: string;
  readonly person: string;
  readonly name: string;
  readonly email: string;
  readonly subject: string;
  readonly body: string;
  readonly tries: number;
  /** Seconds since it was tried first. */
  readonly age: number;
}

/**
 * Sends what runs left for people. Each message is taken on by a lease, sent outside of any transaction, and then noted: so a slow service holds
 * nothing up, two processes take other messages, and one that dies in between sends at most one message twice. Tried again for three
 * days; then it is given up and told in Today.
 */
export async function sendMessages(key: string, service: MessageService): Promise<number> {
  const { schema } = await loadWorkspace(key);
  const table = `${quote(schema)}._message`;
  let sent = 0;
  for (let number = 0; number < AT_ONCE; number += 1) {
    const message = await take(table);
    if (!message) break;
    const { id, subject, body, tries, age, ...to } = message;
    const failure = await failureOf(
      service.send({ to: { id: to.person, name: to.name, email: to.email }, subject, body }),
    );
    if (failure === null) {
      sent += 1;
      await runAlone(`UPDATE ${table} SET sent_at = clock_timestamp(), failure = NULL WHERE id = $1`, [id]);
      continue;
    }
    const isGivenUp = age >= GIVEN_UP_AFTER;
    log.warn(
      { workspace: key, message: id, failure },
      isGivenUp
        ? 'a message could not be sent and is given up'
        : 'a message could not be sent; it is tried again',
    );
    await runAlone(
      `UPDATE ${table} SET failure = $2, failed_at = CASE WHEN $3 THEN clock_timestamp() END,
          next_at = clock_timestamp() + make_interval(secs => $4) WHERE id = $1`,
      [id, failure, isGivenUp, pauseAfter(tries)],
    );
  }
  return sent;
}

async function take(table: string): Promise<Taken | undefined> {
  const [message] = await runAlone<Taken>(
    `UPDATE ${table} m SET tries = m.tries + 1, first_at = COALESCE(m.first_at, clock_timestamp()),
        next_at = clock_timestamp() + make_interval(secs => $1)
      FROM public.person p WHERE p.id = m.person AND m.id = (SELECT id FROM ${table} WHERE sent_at IS NULL AND failed_at IS NULL AND next_at <= clock_timestamp()
        ORDER BY next_at, id LIMIT 1 FOR UPDATE SKIP LOCKED)
      RETURNING m.id::text, m.person::text, p.name, p.email, m.subject, m.body, m.tries, EXTRACT(EPOCH FROM clock_timestamp() - m.first_at)::float8 AS age`,
    [LEASE],
  );
  return message;
}

/** Why something failed, in words; `null` where it didn't. A service that says nothing for a minute has failed. */
async function failureOf(sending: Promise<void>): Promise<string | null> {
  const late = () => new Error('The message service said nothing for a minute.');
  try {
    await within(sending, MINUTE * 1_000, late);
    return null;
  } catch (error) {
    return error instanceof Error ? error.message : String(error);
  }
}
