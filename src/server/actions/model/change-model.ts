import {
  certain,
  firstIn,
  displayValue,
  isConverted,
  kindsInto,
  KIND_NAMES,
  parseValue,
  type Problem,
  type Value,
  type ValueType,
} from '@/core/values';
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
import type { Pilot, RuleDefinition, RuleState } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { countSelected } from '@/server/queries/records/list-records';
import { refuse, Refusal } from '@/server/refusal';
import { applyStep, type Mapped, mapValues } from '@/server/store/schema/alter-tables';
import { insertRun } from '@/server/store/run/run-writer';
import { columnOf, quote, run, tableOf } from '@/server/store/sql/sql';
import { type Attempt, inChange, inSnapshot } from '@/server/store/session/transactions';
import {
  currentWorkspace,
  type LoadedWorkspace,
  loadWorkspace,
  readWorkspace,
} from '@/server/store/session/workspace';
import { checkPerson } from '@/server/queries/workspaces/people';
import { lostLists, readLists } from '@/server/actions/records/saved-lists';
import { fillAll } from '@/server/actions/rules/write-rules';

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

const NO_EFFECTS: ModelEffects = { blocked: [], unreadable: [], touched: [], again: [] };

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
  const after = readModel(changed.definition, model.settledDay);
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
  }>(
    transaction,
    `SELECT r.id::text, r.name, v.id::text AS version, v.definition, CASE WHEN v.id = r.live_version THEN r.pilot END AS pilot,
        CASE WHEN r.state = 'live' AND v.id <> r.live_version THEN 'draft' ELSE r.state END AS state
      FROM ${s}._rule r JOIN ${s}._rule_version v ON v.id IN (r.latest_version, r.live_version) WHERE r.state <> 'retired' ORDER BY r.name, v.number`,
  );
  return found;
}

const count = async (transaction: Transaction, from: string): Promise<number> => {
  const found = firstIn(
    await run<{ number: number }>(transaction, `SELECT count(*)::int AS number FROM ${from}`),
  );
  return found.number;
};

async function stepView(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  step: StorageStep,
): Promise<StepView> {
  const { model, schema } = workspace;
  const none = { stored: 0, altered: 0, lost: 0, samples: [], refusal: null };
  if (step.kind === 'addType') {
    const { key, name } = step.type;
    return { kind: step.kind, type: key, typeName: name, field: null, name, ...none };
  }
  if (step.kind === 'removeType') {
    const { key, name } = step.type;
    const stored = await count(transaction, tableOf(schema, key));
    return { kind: step.kind, type: key, typeName: name, field: null, name, ...none, stored, lost: stored };
  }
  if (step.kind === 'openLink') return openLinkView(transaction, workspace, step);
  const field = step.kind === 'changeField' ? step.to : step.field;
  const typeName = model.type(step.type)?.name ?? step.type;
  const head = { kind: step.kind, type: step.type, typeName, field: field.key, name: field.name };
  // A field of a type that is made by the same changes has nothing stored.
  if (!model.type(step.type)) return { ...head, ...none };
  const table = tableOf(schema, step.type);
  if (step.kind === 'addField') {
    const isSerial = field.type.kind === 'serial';
    const stored = field.required || isSerial ? await count(transaction, table) : 0;
    const isEmpty = field.required && stored > 0 && (field.default ?? null) === null;
    return {
      ...head,
      ...none,
      stored,
      refusal: isEmpty ? emptyProblem(step.type, field.key, field.name, stored) : null,
    };
  }
  if (step.kind === 'removeField') {
    const stored = await count(transaction, `${table} WHERE ${columnOf(field.key)} IS NOT NULL`);
    return { ...head, ...none, stored, lost: stored };
  }
  const mapped =
    isConverted(step.from.type, step.to.type) || (step.to.unique && !step.from.unique)
      ? await mapValues(transaction, workspace, step.type, step)
      : [];
  const all = await count(transaction, table);
  return { ...head, ...changeView(step, mapped, all, await emptyOf(transaction, table, step)) };
}

/** Records that name several parents by the links of an open link, or none where it is required, stand against it. */
async function openLinkView(
  transaction: Transaction,
  { model, schema }: LoadedWorkspace,
  { kind, type, from, to }: Extract<StorageStep, { kind: 'openLink' }>,
): Promise<StepView> {
  const { key, name } = certain(to ?? from);
  const typeName = model.type(type)?.name ?? type;
  const head = { kind, type, typeName, field: key, name, altered: 0, lost: 0, samples: [] };
  if (!to || !model.type(type)) return { ...head, stored: 0, refusal: null };
  const stored = to.links.filter((link) => model.field(type, link));
  const filled = stored.length > 0 ? `num_nonnulls(${stored.map(columnOf).join(', ')})` : '0';
  const records = (where: string) => count(transaction, `${tableOf(schema, type)} WHERE ${where}`);
  const several = await records(`${filled} > 1`);
  const none = to.required ? await records(`${filled} = 0`) : 0;
  const parts = [
    ...(several > 0 ? [`${several.toLocaleString('en')} name several parents by its links`] : []),
    ...(none > 0 ? [`${none.toLocaleString('en')} name none`] : []),
  ];
  const message = `${name}: of the records that are there, ${parts.join(' and ')}. Change these first.`;
  const refusal: Problem | null =
    parts.length > 0
      ? { code: 'model.openLink', place: `${type}.${key}`, message, data: { several, none } }
      : null;
  return { ...head, stored: several + none, refusal };
}

const emptyOf = async (
  transaction: Transaction,
  table: string,
  { from, to }: Extract<StorageStep, { kind: 'changeField' }>,
): Promise<number> =>
  to.required && !from.required ? count(transaction, `${table} WHERE ${columnOf(from.key)} IS NULL`) : 0;

const MOST_SAMPLES = 8;

function changeView(
  { type, from, to, whereEmpty }: Extract<StorageStep, { kind: 'changeField' }>,
  mapped: readonly Mapped[],
  all: number,
  empty: number,
): Omit<StepView, 'kind' | 'type' | 'typeName' | 'field' | 'name'> {
  const sum = (of: readonly Mapped[]) => of.reduce((total, { records }) => total + records, 0);
  const lost = sum(mapped.filter(({ fate }) => fate === 'lost'));
  const altered = sum(mapped.filter(({ fate }) => fate === 'altered'));
  const isFilled = whereEmpty !== null && parseValue(to.type, whereEmpty).ok;
  const left = to.required ? empty + lost : 0;
  const words = (of: ValueType, value: Value) => displayValue(of, value);
  const samples = mapped
    .filter(({ fate }) => fate !== 'same')
    .sort((a, b) => b.records - a.records)
    .slice(0, MOST_SAMPLES)
    .map(({ before, after, records }) => ({
      ...{ before: words(from.type, before), after: words(to.type, after), records },
    }));
  const refusal =
    kindProblem(type, from.type, to.type, to.key, to.name) ??
    (left > 0 && !isFilled ? emptyProblem(type, to.key, to.name, left) : null) ??
    (to.unique && !from.unique ? twiceProblem(type, to, mapped) : null);
  return {
    ...{ stored: mapped.length > 0 ? sum(mapped) : all, lost, samples, refusal },
    altered: altered + (isFilled ? left : 0),
  };
}

/** Kinds that no value of the field could become, and links that would name records of another type. */
function kindProblem(
  type: string,
  from: ValueType,
  into: ValueType,
  key: string,
  name: string,
): Problem | null {
  const place = `${type}.${key}`;
  if (from.kind === 'link' && into.kind === 'link' && from.target !== into.target) {
    const message = `${name} can’t come to name records of another type. Add a new link, and remove this one.`;
    return { code: 'model.target', place, message };
  }
  if (kindsInto(from.kind).includes(into.kind)) return null;
  const message = `${name} is of kind ${KIND_NAMES[from.kind]}, and no ${KIND_NAMES[from.kind]} can become ${KIND_NAMES[into.kind]}. Add a new field, and remove this one.`;
  return { code: 'model.kind', place, message };
}

function emptyProblem(type: string, key: string, name: string, empty: number): Problem {
  const message = `${name} would be required, and is empty in ${empty.toLocaleString('en')} ${empty === 1 ? 'record' : 'records'}. Say what should stand there.`;
  return { code: 'model.empty', place: `${type}.${key}`, message, data: { records: empty } };
}

function twiceProblem(
  type: string,
  to: { readonly key: string; readonly name: string; readonly type: ValueType },
  mapped: readonly Mapped[],
): Problem | null {
  const counts = new Map<string, number>();
  for (const { after, records } of mapped) {
    if (after === null) continue;
    const words = displayValue(to.type, after);
    counts.set(words, (counts.get(words) ?? 0) + records);
  }
  const twice = [...counts].filter(([, records]) => records > 1).map(([words]) => `“${words}”`);
  if (twice.length === 0) return null;
  const shown = twice.slice(0, 3).join(', ');
  const message = `${to.name} would be unique, and ${twice.length.toLocaleString('en')} ${twice.length === 1 ? 'value stands' : 'values stand'} in more than one record: ${shown}${twice.length > 3 ? ' …' : ''}. Change these first.`;
  return { code: 'model.twice', place: `${type}.${to.key}`, message, data: { values: twice.length } };
}

export interface ModelChangeInput {
  readonly workspace: string;
  readonly person: string;
  readonly changes: readonly ModelChange[];
  /** The version of the model that the person saw. */
  readonly version: number;
  readonly note?: string;
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
  inChange(input.workspace, (attempt) => applyIn(attempt, input));

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
  const words = [...storage.map(wordsOf), ...rehearsal.selections.map(selectionWords)];
  const note = input.note || words.join('; ').slice(0, 500);
  const info = { kind: 'model', person: input.person, note } as const;
  const runId = await insertRun(transaction, workspace.schema, info);
  for (const step of storage) await applyStep({ transaction, workspace, run: runId }, step);
  const fresh = await readWorkspace(transaction, workspace);
  const chain = fresh.plan.rules.filter(({ id }) => rehearsal.again.includes(id));
  // A run of its own: a record may be changed by the model and by a rule, and has one entry for each run.
  const again = chain.length > 0 ? await insertRun(transaction, workspace.schema, info) : runId;
  const written = await fillAll(transaction, fresh, chain, again);
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
