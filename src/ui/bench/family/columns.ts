import { type Field, type Model, typeIn } from '@/core/model';
import { compileRule, type Rule } from '@/core/rules';

const FEWEST = 4;

/** The columns of a type whose records hang by a link (`null` for the record at the top). */
export type ColumnsOf = (type: string, hangsBy: string | null) => readonly Field[];

/** Columns for a model and the rules that take part, worked out once for each type. */
export function columnsOn(model: Model, rules: readonly Rule[]): ColumnsOf {
  const known = new Map<string, readonly Field[]>();
  return (type, hangsBy) => {
    const key = `${type} ${hangsBy}`;
    const columns = known.get(key) ?? columnsFor(model, rules, type, hangsBy);
    known.set(key, columns);
    return columns;
  };
}

/** Those columns, and any other field that changed: what follows is never out of sight for want of a column. */
export const withChanged =
  (model: Model, all: ColumnsOf, changed: ReadonlyMap<string, ReadonlySet<string>>): ColumnsOf =>
  (type, hangsBy) => {
    const shown = new Set(all(type, hangsBy).map(({ key }) => key));
    const keys = changed.get(type) ?? new Set<string>();
    const { fields, title } = typeIn(model, type);
    return fields.filter(({ key }) => shown.has(key) || (key !== title && key !== hangsBy && keys.has(key)));
  };

/** Of those columns the ones that changed, with any other field that did. */
export const changedColumns =
  (model: Model, all: ColumnsOf, changed: ReadonlyMap<string, ReadonlySet<string>>): ColumnsOf =>
  (type, hangsBy) => {
    const keys = changed.get(type) ?? new Set<string>();
    const { fields, title } = typeIn(model, type);
    const shown = fields.filter(({ key }) => key !== title && key !== hangsBy && keys.has(key));
    return shown.length > 0 ? shown : all(type, hangsBy).slice(0, FEWEST);
  };

/**
 * The fields of a type that matter on the bench: those that the rules read or write, in the order of the type; filled up
 * with its first fields where they are few. The title and the link by which the records hang here are left out.
 */
export function columnsFor(
  model: Model,
  rules: readonly Rule[],
  type: string,
  hangsBy: string | null,
): Field[] {
  const compiled = rules.flatMap((rule) => {
    const result = compileRule(model, rule);
    return result.ok ? [result.rule] : [];
  });
  const touched = new Set(
    compiled
      .flatMap((rule) => [rule.writes, ...rule.reads])
      .flatMap((ref) => (ref.type === type ? [ref.field] : [])),
  );
  const { fields, title } = typeIn(model, type);
  const offered = fields.filter(({ key }) => key !== title && key !== hangsBy);
  const mattering = offered.filter(({ key }) => touched.has(key));
  const others = offered.filter(
    (field) => !touched.has(field.key) && field.type.kind !== 'link' && field.type.kind !== 'longText',
  );
  const chosen = new Set([...mattering, ...others.slice(0, Math.max(0, FEWEST - mattering.length))]);
  return offered.filter((field) => chosen.has(field));
}
