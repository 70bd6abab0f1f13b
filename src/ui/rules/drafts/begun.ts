import { type Draft, wholeDraft } from './drafts';

/** A rule as it is written on its page. */
export interface Written {
  readonly draft: Draft;
  readonly name: string;
  readonly note: string;
}

/** What was written of a rule and not saved, kept in this browser. */
export interface Begun extends Written {
  /** An instant, in UTC. */
  readonly at: string;
  readonly key: string;
}

/** Of another version of Oikon nothing is offered: its drafts may have other parts. */
const FORM = 1;

const prefixOf = (workspace: string, rule: string | null): string =>
  `oikon.begun.${FORM}.${workspace}.${rule ?? 'new'}.`;

/** Keeps what is being written. Tells whether this browser can. */
export function keepBegun(
  workspace: string,
  rule: string | null,
  session: string,
  written: Written,
): boolean {
  try {
    const entry = { ...written, at: new Date().toISOString() };
    localStorage.setItem(prefixOf(workspace, rule) + session, JSON.stringify(entry));
    return true;
  } catch {
    // Full, or closed to pages: then whoever leaves is asked.
    return false;
  }
}

export const dropBegun = (workspace: string, rule: string | null, session: string): void =>
  localStorage.removeItem(prefixOf(workspace, rule) + session);

export const dropEntry = ({ key }: Begun): void => localStorage.removeItem(key);

/** What was begun on a rule, the latest first; a new rule's where `rule` is `null`. */
export function begunOn(workspace: string, rule: string | null): readonly Begun[] {
  const prefix = prefixOf(workspace, rule);
  return Object.keys(localStorage)
    .filter((key) => key.startsWith(prefix))
    .flatMap((key) => readEntry(key))
    .sort((a, b) => (a.at < b.at ? 1 : -1));
}

function readEntry(key: string): Begun[] {
  try {
    const { draft, name, note, at } = JSON.parse(localStorage.getItem(key) ?? '') as Begun;
    return [{ draft: wholeDraft(draft), name, note, at, key }];
  } catch {
    // Not Oikon's writing: nothing can be made of it.
    localStorage.removeItem(key);
    return [];
  }
}
