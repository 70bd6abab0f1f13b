import { certain, Decimal, firstIn, round, type Value, type ValueType } from '@/core/values';

export type Present = Exclude<Value, null>;

/** What a function takes at one place. */
export interface Parameter {
  readonly name: string;
  readonly takes:
    | 'number'
    | 'whole number'
    | 'text'
    | 'date'
    | 'date and time'
    | 'number or money'
    | 'money'
    | 'a number, a date, a text, a choice or a yes/no'
    | 'a value that has words of its own'
    | 'anything';
  readonly isOptional?: true;
  /** As many more of the same as wanted. */
  readonly isRepeated?: true;
  /** Must be written as a number, since it says how many places the result has. */
  readonly isLiteral?: true;
}

/** An example: the FEEL text, and what it comes to. */
export type Example = readonly [text: string, comesTo: string];

export interface FunctionEntry {
  readonly parameters: readonly Parameter[];
  readonly help: string;
  readonly examples: readonly Example[];
  /** The kind of what it gives, from the kinds that it was given and the places that were written. */
  readonly gives: (types: readonly ValueType[], places: number) => ValueType;
  /** Works it out for arguments of which none is empty, and their types; `null` is empty. */
  readonly work: (values: readonly Present[], types: readonly ValueType[]) => Value;
  /** It takes empty arguments too, handed over as `null`. */
  readonly workEmpty?: (values: readonly Value[]) => Value;
  /** It goes by the clocks of the workspace’s time zone, whose name is handed over as the last text. */
  readonly isInZone?: true;
}

export const NUMBER = (scale: number): ValueType => ({ kind: 'number', scale });
export const TEXT: ValueType = { kind: 'text' };
export const YES_NO: ValueType = { kind: 'yesNo' };
export const DATE: ValueType = { kind: 'date' };
export const own = (types: readonly ValueType[]): ValueType => firstIn(types);
export const number = (value: Present | undefined): Decimal => value as Decimal;
export const text = (value: Present | undefined): string => value as string;
export const one = (name: string, takes: Parameter['takes']): Parameter => ({ name, takes });
export const isMoney = (value: Present): value is Extract<Present, { currency: string }> =>
  typeof value === 'object' && 'currency' in value;

/** Applies something to a plain number, or to the amount of money. */
export const onAmount = (value: Present, apply: (amount: Decimal) => Decimal): Value =>
  isMoney(value) ? { ...value, amount: apply(value.amount) } : apply(number(value));

const PLACES: Parameter = { name: 'places', takes: 'whole number', isOptional: true, isLiteral: true };

/** A number of so many places, with the unit that it had; money stays money. */
export function placed(types: readonly ValueType[], places: number): ValueType {
  const type = firstIn(types);
  if (type.kind === 'money') return type;
  const unit = type.kind === 'number' ? type.unit : undefined;
  return { kind: 'number', scale: places, ...(unit ? { unit } : {}) };
}

export const rounding = (
  help: string,
  examples: readonly Example[],
  how: (amount: Decimal, places: number) => Decimal,
): FunctionEntry => ({
  parameters: [one('number', 'number or money'), PLACES],
  ...{ help, examples, gives: placed },
  work: ([value, places]) =>
    onAmount(certain(value), (amount) => how(amount, places ? number(places).toNumber() : 0)),
});

export const nearest = (amount: Decimal, places: number) => round(amount, { mode: 'nearest', places });
export const outward = (amount: Decimal, places: number) =>
  round(amount, { mode: amount.isNegative() ? 'down' : 'up', places });
export const inward = (amount: Decimal, places: number) =>
  round(amount, { mode: amount.isNegative() ? 'up' : 'down', places });

export const part = (
  which: (date: string) => number,
  help: string,
  examples: readonly Example[],
): FunctionEntry => ({
  parameters: [one('date', 'date')],
  ...{ help, examples, gives: () => NUMBER(0) },
  work: ([date]) => new Decimal(which(text(date))),
});
