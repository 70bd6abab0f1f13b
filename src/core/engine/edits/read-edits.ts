import { type Field, type Model, type RecordType, typeIn } from '@/core/model';
import type { Plan } from '@/core/plan';
import { isCreate } from '@/core/rules';
import { parseValue, type Problem, type Value } from '@/core/values';
import { emptiedWith, openLinkProblems } from './open-links';
import { recordKey } from '@/core/engine/driver/record';
import type { Edit, EditProblem, WireEdit } from './types';

export interface ReadEditsInput {
  readonly model: Model;
  readonly plan: Plan;
  readonly edits: readonly WireEdit[];
  /** Ids of the people that a person field may name. */
  readonly people: { has(id: string): boolean };
  readonly newId: () => string;
  /** For records that come with the serial numbers that they had: these are taken as they are. */
  readonly areNumbersGiven?: boolean;
}

export type ReadEdits =
  | { readonly ok: true; readonly edits: readonly Edit[] }
  | { readonly ok: false; readonly problems: readonly EditProblem[] };

/**
 * Reads edits as they came in. Refuses unknown types and fields, values that don't fit, fields that a rule keeps (by the
 * rule's name), required fields left empty, and a record that is named twice. All problems are reported, not the first.
 */
export function readEdits(input: ReadEditsInput): ReadEdits {
  const problems: EditProblem[] = [];
  const seen = new Set<string>();
  const edits = input.edits.flatMap((wire, index): Edit[] => {
    const add = (problem: Problem) => void problems.push({ ...problem, index });
    const type = input.model.type(wire.type);
    if (!type) {
      add({
        code: 'edit.type',
        message: `There is no type “${wire.type}”. The types are ${input.model.types.map(({ key }) => key).join(', ')}.`,
        place: 'type',
      });
      return [];
    }
    const id = wire.id ?? (wire.kind === 'create' ? input.newId() : '');
    const idProblem = checkId(type, id);
    if (idProblem) add(idProblem);
    const key = recordKey({ type: type.key, id });
    if (seen.has(key))
      add({
        code: 'edit.twice',
        message: 'This record is edited twice in one run. Bring the edits together.',
        place: 'id',
      });
    seen.add(key);
    const defaults: string[] = [];
    const values = readValues(input, type, wire, { add, defaults });
    if (wire.madeFor && !isMaker(input.plan, wire.madeFor.rule, type.key))
      add({
        ...{ code: 'edit.madeFor', place: 'madeFor' },
        message: `No live rule with the id ${wire.madeFor.rule} makes ${type.plural}. Make the record by itself, or take the rule live first.`,
      });
    const version = wire.version === undefined ? {} : { version: wire.version };
    if (wire.kind === 'delete' || wire.kind === 'restore')
      return [{ kind: wire.kind, type: type.key, id, ...version }];
    return [
      wire.kind === 'create'
        ? {
            ...{ kind: 'create', type: type.key, id, values },
            ...(defaults.length > 0 ? { defaults } : {}),
            ...(wire.madeFor ? { madeFor: wire.madeFor } : {}),
          }
        : { kind: 'edit', type: type.key, id, values, ...version },
    ];
  });
  return problems.length > 0 ? { ok: false, problems } : { ok: true, edits };
}

const isMaker = ({ turns }: Plan, rule: string, type: string): boolean =>
  turns.filter(isCreate).some(({ id, makes }) => id === rule && makes === type);

function checkId(type: RecordType, id: string): Problem | null {
  const parsed = parseValue({ kind: 'link', target: type.key }, id);
  return parsed.ok ? null : { ...parsed.problem, code: 'edit.id', place: 'id' };
}

function readValues(
  input: ReadEditsInput,
  type: RecordType,
  wire: WireEdit,
  { add, defaults }: { readonly add: (problem: Problem) => void; readonly defaults: string[] },
): Record<string, Value> {
  const values: Record<string, Value> = {};
  for (const [key, value] of Object.entries(wire.values ?? {})) {
    const field = input.model.field(type.key, key);
    const problem = field
      ? readValue(input, { type, field, value, isNew: wire.kind === 'create' }, values)
      : unknownField(type, key);
    if (problem) add({ ...problem, place: key });
  }
  if (wire.kind === 'delete' || wire.kind === 'restore') return {};
  for (const key of emptiedWith(type, values, (field) => field in (wire.values ?? {}))) values[key] = null;
  openLinkProblems(input, type, values, wire.kind === 'create').forEach(add);
  const standing = wire.kind === 'create' ? defaultsOf(input.model, input.plan, type.key) : {};
  for (const field of type.fields) {
    const isGiven = field.key in (wire.values ?? {});
    // What is entered wins over the default, an explicit empty included.
    if (!isGiven && field.key in standing) {
      values[field.key] = standing[field.key] ?? null;
      defaults.push(field.key);
      continue;
    }
    const isMissing =
      field.required &&
      !input.plan.filler({ type: type.key, field: field.key }) &&
      (wire.kind === 'create'
        ? !isGiven || values[field.key] === null
        : isGiven && values[field.key] === null);
    if (isMissing)
      add({ code: 'edit.required', message: `${field.name} is required. Enter a value.`, place: field.key });
  }
  return values;
}

/** What the fields of a new record hold where nothing is entered; what a rule keeps has no default. */
export function defaultsOf(model: Model, plan: Plan, type: string): Record<string, Value> {
  const values: Record<string, Value> = {};
  for (const field of typeIn(model, type).fields) {
    if (field.default === undefined || field.default === null) continue;
    if (plan.keeper({ type, field: field.key })) continue;
    const parsed = parseValue(field.type, field.default);
    if (parsed.ok) values[field.key] = parsed.value;
  }
  return values;
}

const unknownField = (type: RecordType, key: string): Problem => ({
  code: 'edit.field',
  message: `${type.name} has no field “${key}”. Its fields are ${type.fields.map((field) => field.key).join(', ')}.`,
});

function readValue(
  input: ReadEditsInput,
  { type, field, value, isNew }: { type: RecordType; field: Field; value: unknown; isNew: boolean },
  values: Record<string, Value>,
): Problem | null {
  const keeper = input.plan.keeper({ type: type.key, field: field.key });
  if (keeper) {
    const message = `${field.name} is kept by the rule “${keeper.name}”, so it can’t be entered. Change what it is made of, or pause the rule.`;
    return { code: 'edit.kept', message, data: { rule: keeper.id, name: keeper.name } };
  }
  if (field.type.kind === 'serial' && !input.areNumbersGiven && !(isNew && value === null)) {
    const message = `${field.name} is a serial number: Oikon gives it when the record is made, and it stays. Leave it out.`;
    return { code: 'edit.serial', message };
  }
  const parsed = parseValue(field.type, value);
  if (!parsed.ok) return { ...parsed.problem, message: `${field.name}: ${parsed.problem.message}` };
  if (field.type.kind === 'person' && parsed.value !== null && !input.people.has(parsed.value as string)) {
    return {
      code: 'edit.person',
      message: `${field.name}: nobody here has the id ${parsed.value as string}. Choose a person of the workspace.`,
    };
  }
  values[field.key] = parsed.value;
  return null;
}
