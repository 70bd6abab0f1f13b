import {
  type Claim,
  MemoryStore,
  propagate,
  type ReadEdits,
  readEdits,
  recordKey,
  type RecordRef,
  type Ripple,
  type Row,
  runWith,
  type WireEdit,
} from '@/core/engine';
import { rippleView, type RippleView, type SavedRun } from '@/core/verify';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { refuse, Refusal } from '../refusal';
import { forget } from '../store/hints';
import { LockOrderMissed, PostgresDriver } from '../store/driver';
import type { LoadedWorkspace } from '../store/workspace';
import { type Attempt, inSave } from '../store/transactions';

export interface SaveInput {
  readonly workspace: string;
  /** `null`: Oikon itself. */
  readonly person: string | null;
  readonly edits: readonly WireEdit[];
  readonly note?: string;
  /** What an earlier run did is written back: rules that react don't. */
  readonly isUndo?: boolean;
  /** What is checked before it and kept after it, in the same transaction. */
  readonly along?: {
    readonly before: (transaction: Transaction, workspace: LoadedWorkspace) => Promise<void>;
    readonly after: (
      transaction: Transaction,
      workspace: LoadedWorkspace,
      run: string | null,
    ) => Promise<unknown>;
  };
}

export interface Saved extends SavedRun {
  /** Ids of the edited records, in the order of the edits. */
  readonly ids: readonly string[];
}

/** Problems that say that what was seen has changed meanwhile, rather than that the request is wrong. */
const CONFLICTS = new Set([
  ...[
    'edit.version',
    'edit.deleted',
    'edit.exists',
    'delete.children',
    'restore.there',
    'value.taken',
    'edit.made',
  ],
]);

/** Saves edits and all that follows from them as one run: all of it or nothing. */
export async function saveEdits(input: SaveInput): Promise<Saved> {
  let learnt: readonly Claim[] = [];
  const isRetry = (error: unknown): boolean => {
    if (error instanceof LockOrderMissed) learnt = error.claims;
    return error instanceof LockOrderMissed || error instanceof GuessedWrong || isClashOfIds(error);
  };
  let ready: Ready | null = null;
  await inSave(input.workspace, isRetry, (attempt) => {
    ready = makeReady(attempt, input);
    return saveOnce(attempt, ready, learnt);
  });
  const { run, read, ripple, driver } = ready!;
  driver.remember();
  return { run, ids: read.ok ? read.edits.map((edit) => edit.id) : [], ripple: ripple! };
}

/** A save was about to be refused for what this process remembered: it looks for itself. */
class GuessedWrong extends Error {}

/** What a save works with: read before the workspace's epoch is known, used only when it is the right one. */
interface Ready {
  readonly read: ReadEdits;
  readonly driver: PostgresDriver;
  readonly isPersonKnown: boolean;
  /** The run's number, once it is written. */
  run: string | null;
  ripple: RippleView | null;
  readonly isUndo: boolean;
  readonly along: SaveInput['along'];
}

function makeReady({ workspace, transaction, isAlone, begun }: Attempt, input: SaveInput): Ready {
  const { model, plan, people } = workspace;
  const read = readEdits({ model, plan, edits: input.edits, people, newId });
  const info = { kind: 'save', person: input.person, note: input.note ?? '' } as const;
  const driver = new PostgresDriver(workspace, transaction, info, isAlone, begun);
  if (read.ok) driver.lookAhead(read.edits);
  return {
    read,
    driver,
    isPersonKnown: input.person === null || people.has(input.person),
    run: null,
    ripple: null,
    isUndo: input.isUndo === true,
    along: input.along,
  };
}

/** Two runs made a record with the same id at once: tried again, the second finds the first’s and is refused by name. */
const isClashOfIds = (error: unknown): boolean => (error as { code?: string }).code === '23505';

async function saveOnce(
  { workspace, transaction, begun, last, meanwhile }: Attempt,
  ready: Ready,
  learnt: readonly Claim[],
): Promise<void> {
  const { model, plan } = workspace;
  const { read, driver } = ready;
  if (!ready.isPersonKnown || !read.ok) await begun;
  if (!ready.isPersonKnown) throw unknownPerson();
  if (!read.ok) throw refuse(422, read.problems);
  const { along } = ready;
  if (along) await begun.then(() => along.before(transaction, workspace));
  const outcome = await runWith(
    (need) => driver.answer(need),
    propagate({ model, plan, edits: read.edits, learnt, newId, isUndo: ready.isUndo }),
  );
  await begun;
  if (outcome.kind === 'refused') {
    if (driver.isGuessing) {
      forget(workspace, read.edits);
      throw new GuessedWrong();
    }
    const { problems } = outcome;
    if (problems.every((problem) => problem.code === 'edit.gone')) throw refuse(404, problems);
    throw refuse(problems.some((problem) => CONFLICTS.has(problem.code)) ? 409 : 422, problems);
  }
  const named = await driver.rowsOf(namedIn(workspace, outcome.ripple));
  if (along) {
    ready.run = await driver.finish();
    await along.after(transaction, workspace, ready.run);
  } else last(async () => void (ready.run = await driver.finish()));
  meanwhile(() => void (ready.ripple = viewOf(workspace, named, outcome.ripple)));
}

export function checkPerson(workspace: LoadedWorkspace, person: string): void {
  if (!workspace.people.has(person)) throw unknownPerson();
}

const unknownPerson = (): Refusal =>
  new Refusal(
    401,
    'person.unknown',
    'Say who acts: send the id of a person of this workspace in the header Oikon-Person.',
  );

/** The ripple in words, with the titles of all records that it names. */
function viewOf({ model, plan, people }: LoadedWorkspace, named: readonly Row[], ripple: Ripple): RippleView {
  const store = new MemoryStore(model, true);
  for (const row of named) store.put(row);
  return rippleView({ model, plan, store, names: Object.fromEntries(people) }, ripple);
}

/** The records that a ripple names: those that change, their causes, and what their links name. */
function namedIn({ model }: LoadedWorkspace, ripple: Ripple): RecordRef[] {
  const refs = new Map<string, RecordRef>();
  const add = (ref: RecordRef) => refs.set(recordKey(ref), { type: ref.type, id: ref.id });
  for (const entry of [...ripple.events, ...ripple.changes]) [entry, ...entry.causes].forEach(add);
  ripple.overruled.forEach(add);
  for (const { type, ids } of ripple.later) add({ type, id: ids[0]! });
  for (const { type, field, before, after } of ripple.changes) {
    const value = model.field(type, field)?.type;
    if (value?.kind !== 'link') continue;
    for (const id of [before, after]) if (typeof id === 'string') add({ type: value.target, id });
  }
  return [...refs.values()];
}
