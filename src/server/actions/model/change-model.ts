import { certain, firstIn, type Problem } from '@/core/values';
import {
  changeModel,
  type Model,
  type ModelChange,
  type ModelDefinition,
  readModel,
  selectionIn,
  type StorageStep,
  typeIn,
} from '@/core/model';
import { type MetRule, type ModelEffects, modelEffects } from '@/core/verify';
import { type ModelRehearsal, type SelectionEffect, type StepView } from '@/core/api';
import type { Pilot, Rule, RuleDefinition, RuleState } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { countSelected } from '@/server/queries/records/list-records';
import { refuse, Refusal } from '@/server/refusal';
import { applyStep } from '@/server/store/schema/alter-tables';
import { holdRequiredLinks } from '@/server/store/schema/required-links';
import { insertRun } from '@/server/store/write/run-row';
import { quote, run } from '@/server/store/sql/sql';
import { type Attempt, inChange, inSnapshot } from '@/server/store/session/transactions';
import {
  besideSql,
  currentWorkspace,
  type LoadedWorkspace,
  loadWorkspace,
  readWorkspace,
} from '@/server/store/session/workspace';
import { type Approved, settleApproval } from '@/server/actions/workspaces/two-people';
import { checkPerson } from '@/server/queries/workspaces/people';
import { lostLists, readLists } from '@/server/actions/records/saved-lists';
import { nameAgain } from '@/server/actions/rules/rule-names';
import { fillAll } from '@/server/actions/rules/change-state';
import { stepView } from './model-steps';

/** What changes of the model would do to what is stored and to the rules. Looks at the data as it stands; changes nothing. */
export async function rehearseModel(key: string, changes: readonly ModelChange[]): Promise<ModelRehearsal> {
  const known = await loadWorkspace(key);
  return inSnapshot(async (transaction) => {
    const workspace = await currentWorkspace(transaction, known);
    return rehearseIn(transaction, workspace, changes);
  });
}

/** The same within a transaction that looks at more. */
export const rehearseIn = async (
  transaction: Transaction,
  workspace: LoadedWorkspace,
  changes: readonly ModelChange[],
): Promise<ModelRehearsal> => (await rehearsed(transaction, workspace, changes)).rehearsal;

interface Rehearsed {
  readonly rehearsal: ModelRehearsal;
  readonly definition: ModelDefinition | null;
  readonly storage: readonly StorageStep[];
}

const NO_EFFECTS: ModelEffects = { blocked: [], unreadable: [], touched: [], again: [], reacting: [] };

async function rehearsed(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  changes: readonly ModelChange[],
): Promise<Rehearsed> {
  const { model } = workspace;
  const { types, lists = [], selections = [], ruleDefaults } = model;
  const changed = changeModel({ types, lists, selections, ruleDefaults }, changes);
  if (!changed.ok) {
    const rehearsal = {
      ...NO_EFFECTS,
      steps: [],
      selections: [],
      problems: changed.problems,
      isPossible: false,
    };
    return { rehearsal, definition: null, storage: [] };
  }
  const rules = await allRules(transaction, workspace);
  const nameOf = (id: string) => workspace.people.get(id);
  const after = readModel({ ...changed.definition, timeZone: model.timeZone }, model.settledDay);
  const known = modelEffects(model, after, changed.steps, rules, nameOf);
  const lost = lostLists(await readLists(transaction, workspace), model, after);
  const effects = { ...known, unreadable: [...known.unreadable, ...lost] };
  const steps: StepView[] = [];
  for (const step of changed.steps) steps.push(await stepView(transaction, workspace, step));
  const isPossible =
    effects.blocked.length + effects.unreadable.length === 0 &&
    steps.every(({ refusal }) => refusal === null);
  // Fields that are only being made can't be counted by yet.
  const counted = changed.steps.length === 0 && isPossible ? changedSelections(model, after) : [];
  const selectionEffects: SelectionEffect[] = [];
  for (const key of counted) selectionEffects.push(await selectionEffect(transaction, workspace, after, key));
  return {
    rehearsal: { ...effects, steps, selections: selectionEffects, problems: [], isPossible },
    definition: changed.definition,
    storage: changed.steps,
  };
}

function changedSelections(before: Model, after: Model): string[] {
  const print = (model: Model, key: string) => JSON.stringify(model.selection(key));
  const keys = [...(before.selections ?? []), ...(after.selections ?? [])].map(({ key }) => key);
  return [...new Set(keys)].filter((key) => print(before, key) !== print(after, key));
}

async function selectionEffect(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  after: Model,
  key: string,
): Promise<SelectionEffect> {
  const { model } = workspace;
  const { name, type } = after.selection(key) ?? selectionIn(model, key);
  const countIn = (of: Model) =>
    of.selection(key) ? countSelected(transaction, { ...workspace, model: of }, key) : null;
  const [was, is] = [await countIn(model), await countIn(after)];
  return { key, name, plural: typeIn(after, type).plural, before: was, after: is };
}

/** Every rule in its latest version, and in the live one where that is another. */
async function allRules(transaction: Transaction, { schema }: LoadedWorkspace): Promise<MetRule[]> {
  const s = quote(schema);
  const found = await run<{
    id: string;
    name: string;
    state: RuleState;
    version: string;
    definition: RuleDefinition;
    pilot: Pilot | null;
    beside: Rule['beside'];
  }>(
    transaction,
    `SELECT r.id::text, r.name, v.id::text AS version, v.definition, CASE WHEN v.id = r.running THEN r.pilot END AS pilot,
        CASE WHEN v.id = r.running THEN ${besideSql('b')} END AS beside,
        CASE WHEN r.state = 'live' AND v.id <> r.running THEN 'draft' ELSE r.state END AS state
      FROM (SELECT *, COALESCE(pilot_version, live_version) AS running FROM ${s}._rule) r
      JOIN ${s}._rule_version v ON v.id IN (r.latest_version, r.running)
      LEFT JOIN ${s}._rule_version b ON b.id = r.live_version AND r.pilot_version IS NOT NULL
      WHERE r.state <> 'retired' ORDER BY r.name, v.number`,
  );
  return found;
}

export interface ModelChangeInput {
  readonly workspace: string;
  readonly person: string;
  readonly changes: readonly ModelChange[];
  /** The version of the model that the person saw. */
  readonly version: number;
  readonly note?: string;
  /** Rules that react act on what the change fills. */
  readonly othersAct?: boolean;
  /** By whose approval, where two people are wanted for it. */
  readonly approved?: Approved;
}

export interface ModelChanged extends ModelRehearsal {
  readonly run: string;
  readonly version: number;
  /** Rules that were worked out again, and how many values that wrote. */
  readonly written: readonly { readonly rule: string; readonly records: number }[];
}

/**
 * Changes the model, the tables and what is stored in them as one transaction; rules that read or write what changed are worked
 * out again. Refused whole with everything that stands against it; nobody saves meanwhile, and nobody afterwards with the old
 * model.
 */
export const applyModelChanges = (input: ModelChangeInput): Promise<ModelChanged> =>
  inChange(input.workspace, async (attempt) => {
    await settleApproval(attempt.transaction, attempt.workspace, 'model', input.approved);
    return applyIn(attempt, input);
  });

/** What changes of the model do, a line each. Refuses what can't be done. */
export async function modelWords(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  changes: readonly ModelChange[],
): Promise<readonly string[]> {
  const { rehearsal, storage } = await rehearsed(transaction, workspace, changes);
  refuseImpossible(rehearsal);
  return wordsOfAll(storage, rehearsal);
}

const wordsOfAll = (storage: readonly StorageStep[], { selections }: ModelRehearsal): readonly string[] => [
  ...storage.map(wordsOf),
  ...selections.map(selectionWords),
];

/** The same as a part of a larger change. */
export async function applyIn(
  { workspace, transaction }: Pick<Attempt, 'workspace' | 'transaction'>,
  input: ModelChangeInput,
): Promise<ModelChanged> {
  checkPerson(workspace, input.person);
  if (workspace.modelVersion !== input.version) {
    const message = `The model was changed by somebody else meanwhile. Reload, look again at what your change would do, and apply it then.`;
    const data = { seen: input.version, current: workspace.modelVersion };
    throw new Refusal(409, 'model.version', message, [], data);
  }
  const { rehearsal, definition, storage } = await rehearsed(transaction, workspace, input.changes);
  refuseImpossible(rehearsal);
  const s = quote(workspace.schema);
  const stored = firstIn(
    await run<{ id: number }>(
      transaction,
      `INSERT INTO ${s}._model_version (definition) VALUES ($1) RETURNING id::int`,
      [JSON.stringify(definition)],
    ),
  );
  await run(transaction, `UPDATE ${s}._state SET model = $1`, [stored.id]);
  const words = wordsOfAll(storage, rehearsal);
  const note = input.note || words.join('; ').slice(0, 500);
  const info = { kind: 'model', person: input.person, note } as const;
  const runId = await insertRun(transaction, workspace.schema, info);
  for (const step of storage) await applyStep({ transaction, workspace, run: runId }, step);
  await holdRequiredLinks(transaction, workspace.schema);
  let fresh = await readWorkspace(transaction, workspace);
  if (await nameAgain(transaction, fresh)) fresh = await readWorkspace(transaction, workspace);
  const chain = fresh.plan.rules.filter(({ id }) => rehearsal.again.includes(id));
  // A run of its own: a record may be changed by the model and by a rule, and has one entry for each run.
  const again = chain.length > 0 ? await insertRun(transaction, workspace.schema, info) : runId;
  const written = await fillAll(transaction, fresh, chain, again, { othersAct: input.othersAct === true });
  return { ...rehearsal, run: runId, version: stored.id, written };
}

/** What can be done about a rule that stands in the way. */
const WHAT_TO_DO: Record<RuleState, string> = {
  draft: 'Change the rule first, or delete it if it was never live.',
  live: 'Change the rule first, or pause it and retire it.',
  paused: 'Change the rule first, or retire it: then it is out of every check, and kept with its history.',
  retired: '',
};

function refuseImpossible({ problems, blocked, unreadable, steps, isPossible }: ModelRehearsal): void {
  if (problems.length > 0) throw refuse(422, problems);
  if (isPossible) return;
  throw refuse(409, [
    ...unreadable,
    ...blocked.map(({ rule, problems: [first] }): Problem => ({
      code: 'model.rule',
      place: rule.id,
      message: `The rule “${rule.name}” couldn’t stand afterwards: ${first?.message ?? ''} ${WHAT_TO_DO[rule.state]}`,
    })),
    ...steps.flatMap(({ refusal }) => refusal ?? []),
  ]);
}

const selectionWords = ({ name, before, after }: SelectionEffect): string =>
  `Selection ${before === null ? 'added' : after === null ? 'removed' : 'changed'}: ${name}`;

const WORDS: Record<StorageStep['kind'], string> = {
  addType: 'Type added',
  removeType: 'Type removed',
  addField: 'Field added',
  changeField: 'Field changed',
  removeField: 'Field removed',
  openLink: 'Open link',
};

function wordsOf(step: StorageStep): string {
  const name =
    step.kind === 'addType' || step.kind === 'removeType'
      ? step.type.name
      : step.kind === 'changeField'
        ? step.to.name
        : step.kind === 'openLink'
          ? certain(step.to ?? step.from).name
          : step.field.name;
  return `${WORDS[step.kind]}: ${name}`;
}
