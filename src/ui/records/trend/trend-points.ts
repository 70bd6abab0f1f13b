import type { Field } from '@/core/model';
import { hasTrait, type WireValue } from '@/core/values';
import type { WireRecord } from '@/core/verify';

/** Whether a field's values can stand on an axis: amounts by size, choices by their place, yes above no. */
export const shownOverTime = ({ type }: Field): boolean => hasTrait(type.kind, 'charted');

export interface Point {
  /** Milliseconds since 1970, at midnight in UTC. */
  readonly x: number;
  readonly y: number;
}

/** Where the values of records stand over time; records without one are left out. */
export const pointsOf = (records: readonly WireRecord[], date: Field, field: Field): Point[] =>
  records
    .flatMap(({ values }) => {
      const day = values[date.key];
      const y = heightOf(field, values[field.key] ?? null);
      return typeof day === 'string' && y !== null ? [{ x: Date.parse(`${day}T00:00:00Z`), y }] : [];
    })
    .sort((a, b) => a.x - b.x);

/** A value's place on the axis. Only drawn: nothing is worked out from it. */
function heightOf({ type }: Field, value: WireValue): number | null {
  if (value === null) return null;
  if (type.kind === 'choice') {
    const at = type.options.findIndex(({ key }) => key === value);
    return at === -1 ? null : at;
  }
  if (typeof value === 'boolean') return value ? 1 : 0;
  if (typeof value === 'object') return 'amount' in value ? Number(value.amount) : null;
  const number = Number(value);
  return Number.isFinite(number) ? number : null;
}

/** What stands beside a place on the axis; `null` where amounts stand there. */
export function placeName({ type }: Field, at: number): string | null {
  if (type.kind === 'yesNo') return at === 0 ? 'no' : at === 1 ? 'yes' : '';
  if (type.kind === 'choice') return Number.isInteger(at) ? (type.options[at]?.name ?? '') : '';
  return null;
}
