import { type Field, fieldIn, type Model, type OpenLink, type RecordType, typeIn } from '@/core/model';
import type { Plan } from '@/core/plan';
import type { CompiledRule } from '@/core/rules';
import type { Problem, Value } from '@/core/values';
import type { Touched } from '@/core/engine/driver/record';
import type { Edit, Entry, EditProblem } from './types';

interface RulesAndModel {
  readonly model: Model;
  readonly plan: Plan;
}

const parentNames = (model: Model, type: RecordType, { links }: OpenLink): string[] =>
  links.flatMap((link) => {
    const { type: of } = fieldIn(model, type.key, link);
    return of.kind === 'link' ? typeIn(model, of.target).name : [];
  });

const listed = (names: readonly string[], last: string): string =>
  names.length < 2 ? names.join('') : `${names.slice(0, -1).join(', ')} ${last} ${names.at(-1)}`;

/** What filling one link of an open link empties: the others, unless the edit names them itself. */
export function emptiedWith(
  type: RecordType,
  values: Readonly<Record<string, Value>>,
  isNamed: (field: string) => boolean,
): string[] {
  return (type.openLinks ?? []).flatMap(({ links }) =>
    links.some((link) => (values[link] ?? null) !== null) ? links.filter((link) => !isNamed(link)) : [],
  );
}

const filledOf = ({ links }: OpenLink, values: Readonly<Record<string, Value>>): number =>
  links.filter((link) => (values[link] ?? null) !== null).length;

function problemOf(model: Model, type: RecordType, open: OpenLink, filled: number): Problem | null {
  const names = parentNames(model, type, open);
  if (filled > 1) {
    const message = `${open.name} names one record, of type ${listed(names, 'or')}, not several. Leave all but one empty.`;
    return { code: 'link.several', message, place: open.key };
  }
  if (filled > 0 || !open.required) return null;
  const message = `${open.name} is required. Choose a record of type ${listed(names, 'or')}.`;
  return { code: 'edit.required', message, place: open.key };
}

/** Whether a rule fills one of the links of an open link: until it has, none needs be filled. */
export const isFilledByRule = (plan: Plan, type: string, { links }: OpenLink): boolean =>
  links.some((field) => plan.filler({ type, field }) !== undefined);

/** What is wrong with the links of an edit as it came in; of a whole record also one that is missing. */
export const openLinkProblems = (
  { model, plan }: RulesAndModel,
  type: RecordType,
  values: Readonly<Record<string, Value>>,
  isWhole: boolean,
): Problem[] =>
  (type.openLinks ?? []).flatMap((open) => {
    const filled = filledOf(open, values);
    const isLacking = isWhole && !isFilledByRule(plan, type.key, open);
    return filled > 1 || isLacking ? (problemOf(model, type, open, filled) ?? []) : [];
  });

/** Records that would name several parents by one open link, or none where it is required, before rules run. */
export function checkOpenLinks(
  { model, plan }: RulesAndModel,
  entries: ReadonlyMap<string, Entry>,
): EditProblem[] {
  return [...entries.values()].flatMap(({ kind, type: key, before, after, fields, index }) => {
    const type = typeIn(model, key);
    if (!type.openLinks || kind === 'delete' || !after || after.deleted) return [];
    return type.openLinks.flatMap((open) => {
      const isTouched = !before || kind === 'restore' || open.links.some((link) => fields.has(link));
      const filled = filledOf(open, after.values);
      if (!isTouched || (filled === 0 && isFilledByRule(plan, key, open))) return [];
      const problem = problemOf(model, type, open, filled);
      return problem ? [{ ...problem, index }] : [];
    });
  });
}

/** Required links that live rules fill and that are empty all the same once they have run, and open links that name several then. */
export function linksLeft(
  { model, plan }: RulesAndModel,
  touched: Iterable<Touched>,
  edits: readonly Edit[],
): EditProblem[] {
  const found: EditProblem[] = [];
  for (const { type: key, id, after } of touched) {
    const type = typeIn(model, key);
    const watched = watchedIn(plan, type);
    if (!after || after.deleted || watched.fields.length + watched.open.length === 0) continue;
    // Looked up only for what is wrong: a save may hold thousands of edits.
    const add = (problem: Problem) =>
      found.push({
        ...problem,
        index: Math.max(
          0,
          edits.findIndex((edit) => edit.id === id),
        ),
      });
    for (const { field, rule } of watched.fields)
      if ((after.values[field.key] ?? null) === null) {
        const { name } = typeIn(model, (field.type as { target: string }).target);
        const message = `${field.name} is required, and the rule “${rule.name}” finds no ${name} for it here. Choose one.`;
        add({ code: 'edit.required', message, place: field.key });
      }
    for (const open of watched.open) {
      const problem = problemOf(model, type, open, filledOf(open, after.values));
      if (problem) add(problem);
    }
  }
  return found;
}

interface Watched {
  readonly fields: readonly { readonly field: Field; readonly rule: CompiledRule }[];
  readonly open: readonly OpenLink[];
}

const watchedOf = new WeakMap<Plan, Map<string, Watched>>();

/** Of a type: required links that rules fill, and its open links. */
export function watchedIn(plan: Plan, type: RecordType): Watched {
  let known = watchedOf.get(plan);
  if (!known) watchedOf.set(plan, (known = new Map()));
  let found = known.get(type.key);
  if (!found) {
    const fields = type.fields.flatMap((field) => {
      const rule = field.required ? plan.filler({ type: type.key, field: field.key }) : undefined;
      return rule ? [{ field, rule }] : [];
    });
    known.set(type.key, (found = { fields, open: type.openLinks ?? [] }));
  }
  return found;
}
