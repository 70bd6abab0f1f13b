import { firstIn, writeCount } from '@/core/values';
import type { Expression } from '@/core/expression';
import { fieldIn, typeIn } from '@/core/model';
import { type FamilyData, type FamilyDrift, familyDrift, fittedFamily } from '@/core/verify';
import { type SampleFamilyView } from '@/core/api';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { familyOf, type FamilyLimits } from '@/server/queries/records/family';
import { listRecords } from '@/server/queries/records/list-records';
import { checkType } from '@/server/queries/records/records';
import { personName } from '@/server/queries/run-head';
import { Refusal } from '@/server/refusal';
import { quote, run } from '@/server/store/sql/sql';
import { inSnapshot } from '@/server/store/session/transactions';
import { currentWorkspace, type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { type By, checkedName, removeRow, saveBy } from '@/server/actions/named';
import type { FamiliesBy, NewFamily } from '@/server/forms/types';

/** Most records of a kept family, and most that are kept around it. */
export const KEPT_LIMITS: FamilyLimits = { members: 20_000, around: 20_000 };
const MOST_FAMILIES = 500;

interface Stored {
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly root_type: string;
  readonly root: string;
  readonly members: number;
  readonly person: string | null;
  readonly made_at: Date;
}

const HEAD = 'id::text, name, note, root_type, root::text, members, person::text, made_at';

const viewOf = (workspace: LoadedWorkspace, stored: Stored): SampleFamilyView => ({
  ...{ id: stored.id, name: stored.name, note: stored.note, members: stored.members },
  root: { type: stored.root_type, id: stored.root },
  person: personName(workspace, stored.person),
  madeAt: stored.made_at.toISOString(),
});

export async function sampleFamilies(key: string): Promise<SampleFamilyView[]> {
  const workspace = await loadWorkspace(key);
  return inSnapshot(async (transaction) =>
    (await readHeads(transaction, workspace)).map((one) => viewOf(workspace, one)),
  );
}

const readHeads = (transaction: Transaction, { schema }: LoadedWorkspace): Promise<Stored[]> =>
  run<Stored>(transaction, `SELECT ${HEAD} FROM ${quote(schema)}._sample_family ORDER BY lower(name), id`);

/** Keeps a family with a name, as a copy. */
export async function keepFamily(by: By, input: NewFamily): Promise<SampleFamilyView> {
  const known = await loadWorkspace(by.workspace);
  const family = input.data ? fitted(known, input.data) : await picked(known, input);
  const made = firstIn(await insertFamilies(by, [{ name: input.name, note: input.note ?? '', family }]));
  return made;
}

function fitted(workspace: LoadedWorkspace, data: FamilyData): FamilyData {
  const { family, lost } = fittedFamily(workspace.model, data);
  if (lost > 0 || !family.members.includes(data.root.id))
    throw new Refusal(
      422,
      'family.data',
      'The family doesn’t fit the model. Reload the bench, and keep it then.',
    );
  if (family.members.length > KEPT_LIMITS.members) throw tooLarge();
  return family;
}

async function picked(known: LoadedWorkspace, { root, links }: NewFamily): Promise<FamilyData> {
  if (!root) throw new Refusal(422, 'family.root', 'Say which record the family hangs under.');
  checkType(known.model, root.type);
  return inSnapshot(async (transaction) => {
    const workspace = await currentWorkspace(transaction, known);
    const family = await familyOf(transaction, workspace, root, { ...KEPT_LIMITS, links: links ?? null });
    if (isCut(workspace, family, links ?? null)) throw tooLarge();
    return family;
  });
}

const tooLarge = (): Refusal =>
  new Refusal(
    422,
    'family.size',
    `The family has more than ${writeCount(KEPT_LIMITS.members)} records. Follow fewer links, or choose a record with fewer beneath it.`,
  );

/** Whether children were left out because there are too many. */
const isCut = ({ model }: LoadedWorkspace, family: FamilyData, links: readonly string[] | null): boolean => {
  const complete = new Set(family.complete.map(({ type, link, parent }) => `${type}.${link} ${parent}`));
  return model
    .linksTo(family.root.type)
    .some(
      ({ type, link }) =>
        (links === null || links.includes(`${type}.${link}`)) &&
        !complete.has(`${type}.${link} ${family.root.id}`),
    );
};

/** Keeps one family for each option of a field: the first record, by title, that has it. */
export async function keepFamiliesBy(by: By, input: FamiliesBy): Promise<SampleFamilyView[]> {
  const known = await loadWorkspace(by.workspace);
  checkType(known.model, input.type);
  const field = known.model.field(input.type, input.field);
  if (field?.type.kind !== 'choice')
    throw new Refusal(
      422,
      'family.field',
      `Choose a field of kind choice of ${typeIn(known.model, input.type).name}.`,
    );
  const { options } = fieldIn(known.model, input.type, input.field).type as {
    options: readonly { key: string; name: string }[];
  };
  const families: { name: string; note: string; family: FamilyData }[] = [];
  for (const option of options) {
    const { records } = await listRecords(known, {
      ...{ type: input.type, filter: {}, descending: false, limit: 1 },
      condition: hasOption(input, option.key),
    });
    const [first] = records;
    if (!first) continue;
    const family = await picked(known, { name: '', root: { type: input.type, id: first.id } });
    families.push({
      name: `${input.name.trim()} ${option.name}`,
      note: `${field.name}: ${option.name}`,
      family,
    });
  }
  if (families.length === 0)
    throw new Refusal(422, 'family.none', 'No record has one of the options, so there is no family to keep.');
  return insertFamilies(by, families);
}

function hasOption({ field, selection }: FamiliesBy, option: string): Expression {
  const has: Expression = {
    ...{ kind: 'compare', operator: '=', left: { kind: 'field', route: [], field } },
    right: { kind: 'constant', value: option },
  };
  if (selection === undefined) return has;
  return {
    kind: 'group',
    operator: 'all',
    of: [has, { kind: 'selection', operator: 'isIn', route: [], selection }],
  };
}

function insertFamilies(
  by: By,
  families: readonly { readonly name: string; readonly note: string; readonly family: FamilyData }[],
): Promise<SampleFamilyView[]> {
  return saveBy(by, async ({ workspace, transaction }) => {
    const heads = await readHeads(transaction, workspace);
    if (heads.length + families.length > MOST_FAMILIES)
      throw new Refusal(409, 'family.most', `At most ${MOST_FAMILIES} families are kept. Remove some first.`);
    const taken = heads.map(({ name }) => name.toLowerCase());
    const made: SampleFamilyView[] = [];
    for (const { name, note, family } of families) {
      const checked = checkedName('family', name, taken);
      taken.push(checked.toLowerCase());
      const stored = firstIn(
        await run<Stored>(
          transaction,
          `INSERT INTO ${quote(workspace.schema)}._sample_family (id, name, note, root_type, root, data, members, person)
          VALUES ($1, $2, $3, $4, $5, $6, $7, $8) RETURNING ${HEAD}`,
          [
            ...[newId(), checked, note, family.root.type, family.root.id],
            ...[JSON.stringify(family), family.members.length, by.person],
          ],
        ),
      );
      made.push(viewOf(workspace, stored));
    }
    return made;
  });
}

/** A kept family, as it fits the model now. */
export async function sampleFamily(key: string, id: string): Promise<FamilyData> {
  const workspace = await loadWorkspace(key);
  return inSnapshot(
    async (transaction) => fittedFamily(workspace.model, await readData(transaction, workspace, id)).family,
  );
}

/** What of a kept family is otherwise in the data by now. */
export async function sampleFamilyDrift(key: string, id: string): Promise<FamilyDrift> {
  const known = await loadWorkspace(key);
  return inSnapshot(async (transaction) => {
    const workspace = await currentWorkspace(transaction, known);
    const { family } = fittedFamily(workspace.model, await readData(transaction, workspace, id));
    const now = await familyOf(transaction, workspace, family.root, { ...KEPT_LIMITS, links: null }).catch(
      (error: unknown) => {
        if (error instanceof Refusal && error.status === 404) return null;
        throw error;
      },
    );
    return familyDrift(workspace.model, family, now);
  });
}

async function readData(
  transaction: Transaction,
  { schema }: LoadedWorkspace,
  id: string,
): Promise<FamilyData> {
  const [found] = await run<{ data: FamilyData }>(
    transaction,
    `SELECT data FROM ${quote(schema)}._sample_family WHERE id::text = $1`,
    [id],
  );
  if (!found) throw unknownFamily();
  return found.data;
}

const unknownFamily = (): Refusal =>
  new Refusal(404, 'family.unknown', 'There is no such kept family. It may have been removed.');

export function removeFamily(by: By, id: string): Promise<void> {
  return saveBy(by, async ({ workspace, transaction }) => {
    if (!(await removeRow(transaction, workspace.schema, '_sample_family', id))) throw unknownFamily();
  });
}
