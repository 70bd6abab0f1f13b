import { firstIn } from '@/core/values';
import { v7 as newId } from 'uuid';
import { type Bundle, compareBundles, type Difference, type Merge, mergeOf } from '@/core/intake';
import { planWithDrafts } from '@/core/verify';
import { type ModelRehearsal, type RecordDifference } from '@/core/api';
import type { Transaction } from 'sequelize';
import { refuse } from '@/server/refusal';
import { quote, run } from '@/server/store/sql/sql';
import { inChange, inSnapshot } from '@/server/store/session/transactions';
import {
  currentWorkspace,
  type LoadedWorkspace,
  loadWorkspace,
  readWorkspace,
} from '@/server/store/session/workspace';
import { compareRecords } from './bundle-records';
import { applyIn, rehearseIn } from '@/server/actions/model/change-model';
import { type Approved, settleApproval } from '@/server/actions/workspaces/two-people';
import { checkPerson } from '@/server/queries/workspaces/people';
import { listProblems } from '@/server/actions/records/saved-lists';
import { type SavedListInput, type MergeInput } from '@/server/forms/types';
import { headOf } from './export-bundle';
import { insertVersion } from './insert-parts';
import { insertRule } from './insert-parts';
import { insertRequests } from './insert-parts';
import { insertProofs } from './insert-parts';
import { insertLists } from './insert-parts';
import { insertFamilies } from './insert-parts';
import { readBundle } from './read-bundle';

export interface BundleComparison {
  /** The workspace that the bundle was made from. */
  readonly from: string;
  readonly differences: readonly Difference[];
  /** What of its records isn't alike; empty for a bundle without records. */
  readonly records: readonly RecordDifference[];
  /** The version of the model that was compared. */
  readonly version: number;
}

/** What a workspace and a bundle don't have alike. */
export async function compareBundle(key: string, text: string): Promise<BundleComparison> {
  const bundle = await readBundle(text);
  const known = await loadWorkspace(key);
  return inSnapshot(async (transaction) => {
    const workspace = await currentWorkspace(transaction, known);
    const head = await headOf(transaction, workspace);
    return {
      ...{ from: bundle.workspace.name, differences: compareBundles(head, bundle) },
      records: await compareRecords(transaction, workspace, bundle),
      version: workspace.modelVersion,
    };
  });
}

/** What taking differences over would do to the model, to what is stored and to the rules; changes nothing. */
export async function rehearseMerge(
  key: string,
  { bundle: text, chosen }: MergeInput,
): Promise<ModelRehearsal> {
  const bundle = await readBundle(text);
  const known = await loadWorkspace(key);
  return inSnapshot(async (transaction) => {
    const workspace = await currentWorkspace(transaction, known);
    const merge = mergeOf(await headOf(transaction, workspace), bundle, new Set(chosen));
    return rehearseIn(transaction, workspace, merge.changes);
  });
}

export interface Merged {
  /** Rules that came, as drafts. */
  readonly rules: number;
  readonly lists: number;
  /** The run that changed the model; `null` where it stays as it is. */
  readonly run: string | null;
}

/** What taking differences over does, a line each. */
export async function bundleWords(key: string, { bundle, chosen }: MergeInput): Promise<readonly string[]> {
  const { from, differences } = await compareBundle(key, bundle);
  const taken = differences.filter(({ id }) => chosen.includes(id));
  return [
    `What was chosen of the bundle “${from}” comes in`,
    ...taken.map(({ name, kind }) => `${name} ${COMING[kind]}`),
  ];
}

const COMING: Readonly<Record<Difference['kind'], string>> = {
  new: 'comes',
  changed: 'becomes another',
  gone: 'goes',
  conflict: 'becomes another',
};

/** Takes differences over in one transaction: the model with what it converts, rules as drafts, and lists. */
export async function mergeBundle(
  by: { readonly workspace: string; readonly person: string },
  { bundle: text, chosen, version }: MergeInput & { readonly version: number },
  approved?: Approved,
): Promise<Merged> {
  const bundle = await readBundle(text);
  return inChange(by.workspace, async (attempt) => {
    const { workspace, transaction } = attempt;
    checkPerson(workspace, by.person);
    await settleApproval(transaction, workspace, 'bundle', approved);
    const merge = mergeOf(await headOf(transaction, workspace), bundle, new Set(chosen));
    const note = `Bundle “${bundle.workspace.name}”`;
    const changed =
      merge.changes.length > 0
        ? await applyIn(attempt, { ...by, changes: merge.changes, version, note })
        : null;
    const fresh = await readWorkspace(transaction, workspace);
    for (const { rule, isNew } of merge.rules) await mergeRule(transaction, fresh, rule, isNew, by.person);
    const s = quote(workspace.schema);
    for (const name of [...merge.goneLists, ...merge.lists.map((list) => list.name.toLowerCase())])
      await run(transaction, `DELETE FROM ${s}._saved_list WHERE lower(name) = $1`, [name]);
    const lists = merge.lists as readonly SavedListInput[];
    const problems = lists.flatMap(({ definition }) => listProblems(fresh.model, definition));
    if (problems.length > 0) throw refuse(409, problems);
    await insertLists(transaction, workspace.schema, lists);
    for (const name of [...merge.goneFamilies, ...merge.families.map((one) => one.name.toLowerCase())])
      await run(transaction, `DELETE FROM ${s}._sample_family WHERE lower(name) = $1`, [name]);
    await insertFamilies(transaction, workspace.schema, merge.families);
    await mergeProofs(transaction, workspace.schema, merge, by.person);
    await mergeRequests(transaction, workspace.schema, merge, by.person);
    return { rules: merge.rules.length, lists: lists.length, run: changed?.run ?? null };
  });
}

async function mergeProofs(
  transaction: Transaction,
  schema: string,
  { proofs, goneProofs }: Merge,
  person: string,
): Promise<void> {
  const s = quote(schema);
  // One that makes way for the bundle's gives it its id, by which requests name it.
  const made = new Map<string, string>();
  for (const { rule, name } of goneProofs) {
    const [gone] = await run<{ id: string }>(
      transaction,
      `DELETE FROM ${s}._proof WHERE rule = $1 AND lower(name) = $2 RETURNING id::text`,
      [rule, name],
    );
    if (gone) made.set(`${rule} ${name}`, gone.id);
  }
  const lost = await withoutRule(transaction, schema, proofs, ({ rule }) => [rule]);
  if (lost.length > 0)
    throw refuse(
      409,
      lost.map(({ name }) => ({
        ...{ code: 'proof.rule', place: 'chosen' },
        message: `The rule of the proof “${name}” isn’t here. Take the rule over too, or leave the proof.`,
      })),
    );
  const idOf = (proof: Bundle['proofs'][number]) =>
    made.get(`${proof.rule} ${proof.name.toLowerCase()}`) ?? newId();
  const own = proofs.map((proof) => ({ ...proof, id: idOf(proof) }));
  await insertProofs(transaction, schema, own, person);
}

async function mergeRequests(
  transaction: Transaction,
  schema: string,
  { requests, goneRequests }: Merge,
  person: string,
): Promise<void> {
  const lost = await withoutRule(transaction, schema, requests, ({ rules }) => rules);
  if (lost.length > 0)
    throw refuse(
      409,
      lost.map(({ name }) => ({
        ...{ code: 'request.rule', place: 'chosen' },
        message: `A rule of the request “${name}” isn’t here. Take the rule over too, or leave the request.`,
      })),
    );
  for (const name of [...goneRequests, ...requests.map((one) => one.name.toLowerCase())])
    await run(transaction, `DELETE FROM ${quote(schema)}._request WHERE lower(name) = $1`, [name]);
  await insertRequests(transaction, schema, requests, person);
}

/** Those of which a rule isn't in the workspace. */
async function withoutRule<T>(
  transaction: Transaction,
  schema: string,
  of: readonly T[],
  rulesOf: (one: T) => readonly string[],
): Promise<T[]> {
  const there = await run<{ id: string }>(transaction, `SELECT id::text FROM ${quote(schema)}._rule`);
  const known = new Set(there.map(({ id }) => id));
  return of.filter((one) => rulesOf(one).some((rule) => !known.has(rule)));
}

async function mergeRule(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  rule: Bundle['rules'][number],
  isNew: boolean,
  person: string,
): Promise<void> {
  const { plan, problems } = planWithDrafts(
    workspace.model,
    [],
    [{ id: rule.id, version: rule.id, name: rule.name, definition: rule.definition }],
  );
  if (plan.rules.length === 0)
    throw refuse(
      409,
      problems.map((problem) => ({
        ...{
          ...problem,
          message: `The rule “${rule.name}” can’t stand here: ${problem.message} Take over what it needs too.`,
        },
      })),
    );
  const { schema } = workspace;
  if (isNew) {
    await insertRule(transaction, schema, { ...rule, person });
    return;
  }
  const version = newId();
  const last = firstIn(
    await run<{ number: number }>(
      transaction,
      `SELECT max(number) AS number FROM ${quote(schema)}._rule_version WHERE rule = $1`,
      [rule.id],
    ),
  );
  const { id, definition } = rule;
  await insertVersion(transaction, schema, {
    id: version,
    rule: id,
    number: last.number + 1,
    definition,
    person,
  });
  await run(
    transaction,
    `UPDATE ${quote(schema)}._rule SET name = $2, is_named = $3, note = $4, latest_version = $5, tags = $6, version = version + 1 WHERE id = $1`,
    [id, rule.name, rule.isNamed !== false, rule.note, version, rule.tags ?? []],
  );
}
