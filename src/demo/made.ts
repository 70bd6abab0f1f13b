import type { Row } from '@/core/engine';
import { readModel, typeIn } from '@/core/model';
import { Decimal, shiftDay, type Value } from '@/core/values';
import { WRENFIELD } from './model';

const model = readModel(WRENFIELD);

export const gbp = (pence: number): Value => ({ amount: new Decimal(pence).div(100), currency: 'GBP' });

export const addDays = (date: string, days: number): string => shiftDay(date, days)!;

/** A record of the demo; what isn't given is empty. */
export function rowOf(type: string, id: string, values: Record<string, Value>): Row {
  const empty = Object.fromEntries(typeIn(model, type).fields.map((field) => [field.key, null]));
  return { type, id, version: 1, deleted: false, errors: {}, values: { ...empty, ...values } };
}
