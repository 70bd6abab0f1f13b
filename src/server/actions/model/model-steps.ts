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
  writeCount,
} from '@/core/values';
import { type StorageStep } from '@/core/model';
import { type StepView } from '@/core/api';
import type { Transaction } from 'sequelize';
import { type Mapped, mapValues } from '@/server/store/schema/alter-tables';
import { columnOf, run, tableOf } from '@/server/store/sql/sql';
import { type LoadedWorkspace } from '@/server/store/session/workspace';

const count = async (transaction: Transaction, from: string): Promise<number> => {
  const found = firstIn(
    await run<{ number: number }>(transaction, `SELECT count(*)::int AS number FROM ${from}`),
  );
  return found.number;
};

export async function stepView(
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
    ...(several > 0 ? [`${writeCount(several)} name several parents by its links`] : []),
    ...(none > 0 ? [`${writeCount(none)} name none`] : []),
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
  const message = `${name} would be required, and is empty in ${writeCount(empty)} ${empty === 1 ? 'record' : 'records'}. Say what should stand there.`;
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
  const message = `${to.name} would be unique, and ${writeCount(twice.length)} ${twice.length === 1 ? 'value stands' : 'values stand'} in more than one record: ${shown}${twice.length > 3 ? ' …' : ''}. Change these first.`;
  return { code: 'model.twice', place: `${type}.${to.key}`, message, data: { values: twice.length } };
}
