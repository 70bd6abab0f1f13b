import {
  type Claim,
  MemoryStore,
  propagate,
  readEdits,
  recordKey,
  type RecordRef,
  type Ripple,
  runWith,
  type WireEdit,
} from '@/core/engine';
import { rippleView, type RippleView, type SavedRun } from '@/core/verify';
import { v7 as newId } from 'uuid';
import { refuse, Refusal } from '../refusal';
import { LockOrderMissed, PostgresDriver } from '../store/driver';
import type { LoadedWorkspace } from '../store/workspace';
import { type Attempt, inSave } from '../store/transactions';

export interface SaveInput {
  readonly workspace: string;
  readonly person: string;
  readonly edits: readonly WireEdit[];
  readonly note?: string;
}

export interface Saved extends SavedRun {
  /** Ids of the edited records, in the order of the edits. */
  readonly ids: readonly string[];
}

/** Problems that say that what was seen has changed meanwhile, rather than that the request is wrong. */
const CONFLICTS = new Set([
  ...['edit.version', 'edit.deleted', 'edit.exists', 'delete.children', 'restore.there'],
]);

/** Saves edits and all that follows from them as one run: all of it or nothing. */
export async function saveEdits(input: SaveInput): Promise<Saved> {
  let learnt: readonly Claim[] = [];
  const isRetry = (error: unknown): boolean => {
    if (error instanceof LockOrderMissed) learnt = error.claims;
    return error instanceof LockOrderMissed || isClashOfIds(error);
  };
  return inSave(input.workspace, isRetry, (attempt) => saveOnce(attempt, input, learnt));
}

/** Two runs made a record with the same id at once: tried again, the second finds the first’s and is refused by name. */
const isClashOfIds = (error: unknown): boolean => (error as { code?: string }).code === '23505';

async function saveOnce(
  { workspace, transaction, isAlone }: Attempt,
  input: SaveInput,
  learnt: readonly Claim[],
): Promise<Saved> {
  const { model, plan, people } = workspace;
  checkPerson(workspace, input.person);
  const read = readEdits({ model, plan, edits: input.edits, people: new Set(people.keys()), newId });
  if (!read.ok) throw refuse(422, read.problems);
  const driver = new PostgresDriver(
    workspace,
    transaction,
    { kind: 'save', person: input.person, note: input.note ?? '' },
    isAlone,
  );
  const outcome = await runWith(
    (need) => driver.answer(need),
    propagate({ model, plan, edits: read.edits, learnt }),
  );
  if (outcome.kind === 'refused') {
    const { problems } = outcome;
    if (problems.every((problem) => problem.code === 'edit.gone')) throw refuse(404, problems);
    throw refuse(problems.some((problem) => CONFLICTS.has(problem.code)) ? 409 : 422, problems);
  }
  const run = await driver.finish();
  const ripple = await viewOf(workspace, driver, outcome.ripple);
  return { run, ids: read.edits.map((edit) => edit.id), ripple };
}

export function checkPerson(workspace: LoadedWorkspace, person: string): void {
  if (workspace.people.has(person)) return;
  throw new Refusal(
    401,
    'person.unknown',
    'Say who acts: send the id of a person of this workspace in the header Oikon-Person.',
  );
}

/** The ripple in words, with the titles of all records that it names. */
async function viewOf(
  workspace: LoadedWorkspace,
  driver: PostgresDriver,
  ripple: Ripple,
): Promise<RippleView> {
  const { model, plan } = workspace;
  const store = new MemoryStore(model, true);
  for (const row of await driver.rowsOf(namedIn(workspace, ripple))) store.put(row);
  return rippleView({ model, plan, store, names: Object.fromEntries(workspace.people) }, ripple);
}

/** The records that a ripple names: those that change, their causes, and what their links name. */
function namedIn({ model }: LoadedWorkspace, ripple: Ripple): RecordRef[] {
  const refs = new Map<string, RecordRef>();
  const add = (ref: RecordRef) => refs.set(recordKey(ref), { type: ref.type, id: ref.id });
  for (const entry of [...ripple.events, ...ripple.changes]) [entry, ...entry.causes].forEach(add);
  for (const { type, field, before, after } of ripple.changes) {
    const value = model.field(type, field)?.type;
    if (value?.kind !== 'link') continue;
    for (const id of [before, after]) if (typeof id === 'string') add({ type: value.target, id });
  }
  return [...refs.values()];
}
