import { type Field, type Model, typeIn } from '@/core/model';
import { displayValue, hasTrait, parseValue, type WireValue, writeCount } from '@/core/values';

/** A stored value in words; `–` where nothing stands. */
export function wordsFor(
  field: Field,
  wire: WireValue | undefined,
  names: Readonly<Record<string, string>>,
): string {
  const parsed = parseValue(field.type, wire ?? null);
  if (!parsed.ok) return String(wire);
  return parsed.value === null ? '–' : displayValue(field.type, parsed.value, (id) => names[id]);
}

export const isAmount = (field: Field): boolean => hasTrait(field.type.kind, 'numeric');

const MOST_COLUMNS = 6;

/** The fields that a list shows beside the title: links and choices that tell records apart, then amounts and dates. */
export function listColumns(model: Model, type: string, without: string | null = null): Field[] {
  const { fields, title } = typeIn(model, type);
  const rank = (field: Field): number => {
    if (field.type.kind === 'link') return 0;
    if (field.type.kind === 'choice') return 1;
    if (['money', 'anyMoney', 'number'].includes(field.type.kind)) return 2;
    if (field.type.kind === 'date' || field.type.kind === 'rating') return 3;
    return 4;
  };
  const offered = fields.filter(
    ({ key, type: { kind } }) =>
      key !== title && key !== without && kind !== 'longText' && kind !== 'choices',
  );
  const chosen = new Set(
    [...offered]
      .sort((a, b) => rank(a) - rank(b))
      .slice(0, MOST_COLUMNS)
      .map(({ key }) => key),
  );
  return offered.filter(({ key }) => chosen.has(key));
}

/** `40`, or `over 10,000` where they weren't all counted. */
export const countWords = ({ number, isExact }: { number: number; isExact: boolean }): string =>
  `${isExact ? '' : 'over '}${writeCount(number)}`;
