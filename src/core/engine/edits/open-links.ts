import { fieldIn, type Model, type OpenLink, type RecordType, typeIn } from '@/core/model';
import type { Problem, Value } from '@/core/values';
import type { Entry, EditProblem } from './types';

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

/** What is wrong with the links of an edit as it came in; of a whole record also one that is missing. */
export const openLinkProblems = (
  model: Model,
  type: RecordType,
  values: Readonly<Record<string, Value>>,
  isWhole: boolean,
): Problem[] =>
  (type.openLinks ?? []).flatMap((open) => {
    const filled = filledOf(open, values);
    return filled > 1 || isWhole ? (problemOf(model, type, open, filled) ?? []) : [];
  });

/** Records that would name several parents by one open link, or none where it is required, as the run leaves them. */
export function checkOpenLinks(model: Model, entries: ReadonlyMap<string, Entry>): EditProblem[] {
  return [...entries.values()].flatMap(({ kind, type: key, before, after, fields, index }) => {
    const type = typeIn(model, key);
    if (!type.openLinks || kind === 'delete' || !after || after.deleted) return [];
    return type.openLinks.flatMap((open) => {
      const isTouched = !before || kind === 'restore' || open.links.some((link) => fields.has(link));
      if (!isTouched) return [];
      const problem = problemOf(model, type, open, filledOf(open, after.values));
      return problem ? [{ ...problem, index }] : [];
    });
  });
}
