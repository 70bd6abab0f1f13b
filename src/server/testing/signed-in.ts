import { QueryTypes } from 'sequelize';
import { database } from '@/server/database/connection';
import { forgetRates } from '@/server/requests/rates';
import { forgetSettings } from '@/server/settings';
import { beginSession, endSessions } from '@/server/sign-in/sessions';
import type { TestWorkspace } from './workspace';

export interface SomebodySignedIn {
  readonly person: string;
  /** What their browser keeps. */
  readonly secret: string;
  /** Another session of theirs. */
  again(): Promise<string>;
  /** They are signed in no more, and take part in nothing. */
  remove(): Promise<void>;
}

const ORIGIN = 'https://oikon.example.org';
const CLIENT = { address: '192.0.2.1', agent: 'Test' };

/** Makes somebody who takes part in a workspace and is signed in by a password, where people sign in. The workspace is to be there before. */
export async function signedInTo(
  { key, load }: Pick<TestWorkspace, 'key' | 'load'>,
  { id: person, role }: { readonly id: string; readonly role: string },
): Promise<SomebodySignedIn> {
  const run = (text: string, bind: unknown[]) => database().query(text, { bind, type: QueryTypes.SELECT });
  await run(
    `INSERT INTO person (id, name, email, role) VALUES ($1, 'Rita Part', $2, 'Tester') ON CONFLICT (id) DO UPDATE SET is_service = false`,
    [person, `${person.slice(-4)}-${process.pid}@choir.example`],
  );
  await run('DELETE FROM membership WHERE person_id = $1', [person]);
  await run(
    'INSERT INTO membership (workspace_id, person_id, role) SELECT id, $1, $3 FROM workspace WHERE key = $2',
    [person, key, role],
  );
  // Whoever takes part is read with the workspace.
  await run(`UPDATE "${(await load()).schema}"._state SET epoch = epoch + 1`, []);
  const settings = {
    OIKON_DEMO: '',
    OIKON_ORIGIN: ORIGIN,
    OIKON_RATE_PERSON: '99999',
    OIKON_RATE_STRANGER: '99999',
  };
  const before = Object.fromEntries(Object.keys(settings).map((name) => [name, process.env[name]]));
  Object.assign(process.env, settings);
  const forget = () => {
    forgetSettings();
    forgetRates();
  };
  forget();
  const again = () => beginSession(person, CLIENT, { way: 'password', factors: 1 });
  return {
    ...{ person, secret: await again(), again },
    remove: async () => {
      for (const [name, value] of Object.entries(before))
        if (value === undefined) delete process.env[name];
        else process.env[name] = value;
      forget();
      await endSessions(person);
      // Workspaces that other tests make at this moment may take them in: they stay, as somebody whom none takes in.
      await run('UPDATE person SET is_service = true WHERE id = $1', [person]);
      await run('DELETE FROM membership WHERE person_id = $1', [person]);
    },
  };
}
