import type { NewToken, Right, TokenView } from '@/core/api';
import { QueryTypes } from 'sequelize';
import { v4 as newHandle } from 'uuid';
import { askPrepared, database } from '@/server/database/connection';
import { Refusal } from '@/server/refusal';
import { type Had, had, standingIn, standingOf } from './roles';
import { hashOf, newSecret } from './secrets';
import { noteSecurity } from './security-events';
import { checkSecond } from './second-step';
import { type AsKept, leftUntil, type SignedIn } from './sessions';

/** Whoever finds one knows by its beginning what it is. */
const PREFIX = 'oikon_';
/** Tokens that one has at most. */
const MOST = 50;

/** A program that acts for a person, with no more than it was given. */
export interface ByToken extends SignedIn {
  readonly rights: ReadonlySet<Right>;
  /** Keys of the workspaces in which it acts. */
  readonly workspaces: ReadonlySet<string>;
}

export const isToken = (text: string): boolean => /^oikon_[A-Za-z0-9_-]{43}$/.test(text);

/** Makes a token of a person, who signed in well enough for the workspaces in which it acts. What is answered is told once, and stored nowhere. */
export async function makeToken(
  { person, factors }: Pick<SignedIn, 'person' | 'factors'>,
  token: NewToken,
): Promise<string> {
  for (const key of token.workspaces) checkSecond(await standingIn(key, person), factors);
  return keepToken(person, token);
}

/** Keeps a token of a person, or of a service. */
export async function keepToken(
  person: string,
  { name, rights, workspaces, days }: NewToken,
): Promise<string> {
  const known = await tokensOf(person);
  if (known.length >= MOST)
    throw new Refusal(
      409,
      'token.most',
      `There are ${MOST} tokens already. End one that isn’t used any more first.`,
    );
  const text = `${PREFIX}${newSecret()}`;
  await database().query(
    'INSERT INTO token (id, handle, person, name, rights, workspaces, ends) VALUES ($1, $2, $3, $4, $5, $6, now() + make_interval(days => $7))',
    { bind: [hashOf(text), newHandle(), person, name, rights, workspaces, days] },
  );
  await noteSecurity({ kind: 'tokenMade', person, data: { name } });
  return text;
}

/** Who acts by a token; `null` where it isn't good, or no more. It counts as used, noted once in a minute. It never sees to the installation. */
export const tokenBy = async (text: string, workspace: string | null = null): Promise<ByToken | null> =>
  (await tokenAsKept(text, workspace))?.signedIn ?? null;

/** The same, with how the token stands. */
export async function tokenAsKept(
  text: string,
  workspace: string | null,
): Promise<(AsKept & { readonly signedIn: ByToken }) | null> {
  interface Found extends Omit<AsKept, 'id'> {
    readonly person: string;
    readonly name: string;
    readonly handle: string;
    readonly rights: readonly Right[];
    readonly workspaces: readonly string[];
    readonly isStale: boolean;
    readonly had: Had[] | null;
  }
  const id = hashOf(text);
  const [found] = await askPrepared<Found>(
    'token',
    `SELECT t.person::text, p.name, t.handle::text, t.rights, t.workspaces, COALESCE(t.used < now() - interval '1 minute', true) AS "isStale", ${had('p.id', '$2')} AS had, p.rights_changed::text AS since, ${leftUntil('t.ends')} AS left
      FROM token t JOIN person p ON p.id = t.person WHERE t.id = $1 AND t.ends > now()`,
    [id, workspace],
  );
  if (!found) return null;
  const { isStale, had: roles, rights, workspaces, since, left, ...signedIn } = found;
  if (isStale)
    await database().query('UPDATE token SET used = clock_timestamp() WHERE id = $1', { bind: [id] });
  // Whoever made it had shown by then who they are.
  const way = { way: 'token', factors: 2, isOperator: false, standing: standingOf(roles) } as const;
  const granted = { rights: new Set(rights), workspaces: new Set(workspaces) };
  return { signedIn: { ...signedIn, ...way, ...granted }, id, since, left };
}

/** A person's tokens that are still good, the newest first. */
export async function tokensOf(person: string): Promise<TokenView[]> {
  const found = await database().query<
    Omit<TokenView, 'made' | 'ends' | 'used'> & { made: Date; ends: Date; used: Date | null }
  >(
    `SELECT handle::text, name, rights, workspaces, made, ends, used FROM token WHERE person = $1 AND ends > now() ORDER BY made DESC, handle`,
    { bind: [person], type: QueryTypes.SELECT },
  );
  return found.map(({ made, ends, used, ...one }) => ({
    ...one,
    ...{ made: made.toISOString(), ends: ends.toISOString(), used: used?.toISOString() ?? null },
  }));
}

/** Ends a token of a person, at once. Answers whether there was one. */
export async function endToken(person: string, handle: string): Promise<boolean> {
  const ended = await database().query<{ name: string }>(
    'DELETE FROM token WHERE person = $1 AND handle = $2 RETURNING name',
    { bind: [person, handle], type: QueryTypes.SELECT },
  );
  for (const { name } of ended) await noteSecurity({ kind: 'tokenEnded', person, data: { name } });
  return ended.length > 0;
}
