import { evaluate, OUTSIDE, typeCondition } from '@/core/expression';
import { type Field, type Model, type Section, typeIn } from '@/core/model';
import { parseValue, type WireValue } from '@/core/values';
import type { WireRecord } from '@/core/verify';

type Values = Readonly<Record<string, WireValue>>;

export interface ShownSection {
  /** Empty for fields that stand in no section. */
  readonly name: string;
  readonly fields: readonly Field[];
}

/** The sections of a record's page that are shown for its values as they are entered; fields in no section come first. */
export function sectionsOf(model: Model, type: string, values: Values): ShownSection[] {
  const { fields, sections = [] } = typeIn(model, type);
  const placed = new Set(sections.flatMap((section) => section.fields));
  const loose = fields.filter(({ key }) => !placed.has(key));
  const shown = sections
    .filter((section) => isShown(model, type, section, values))
    .map((section) => ({
      name: section.name,
      fields: section.fields.flatMap((key) => model.field(type, key) ?? []),
    }));
  return [{ name: '', fields: loose }, ...shown].filter((section) => section.fields.length > 0);
}

/** Lists of children that stand with a section that isn't shown, by their link. */
export const hiddenLists = (model: Model, { type, values }: WireRecord): ReadonlySet<string> =>
  new Set(
    (typeIn(model, type).sections ?? [])
      .filter((section) => !isShown(model, type, section, values))
      .flatMap(({ lists = [] }) => lists),
  );

/** What a condition reads up a link isn't here: then the section is shown rather than hidden by a guess. */
function isShown(model: Model, type: string, { condition }: Section, values: Values): boolean {
  const typed = condition ? typeCondition(model, type, condition) : null;
  if (!typed?.ok) return true;
  const verdict = evaluate(typed.value, ({ route, field, type: of }) => {
    if (route.length > 0) return OUTSIDE;
    const parsed = parseValue(of, values[field] ?? null);
    return parsed.ok ? parsed.value : null;
  });
  return verdict !== false;
}
