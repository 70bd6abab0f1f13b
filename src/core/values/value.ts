import type { Decimal } from './decimal';
import type { Unread } from './unread';

/** An amount of one currency (ISO 4217 code). */
export interface Money {
  readonly amount: Decimal;
  readonly currency: string;
}

/**
 * What a field holds while the core works with it. `null` is empty. Numbers, ratings and serial numbers are exact decimals; dates
 * (`2026-03-14`), date-times (`2026-03-14T09:30:00.000Z`), choices (their option's key), people and links (their id)
 * are text; several choices are option keys in the order of the options.
 */
export type Value = null | Decimal | Money | string | boolean | readonly string[];

export interface Option {
  readonly key: string;
  readonly name: string;
}

/** What a value is: its kind and the settings that give it meaning. */
export type ValueType =
  /** `anyMoney`: amounts each with a currency of its own, which come together only by a rate. */
  | { readonly kind: 'text' | 'longText' | 'yesNo' | 'date' | 'dateTime' | 'person' | 'anyMoney' }
  | {
      readonly kind: 'number';
      readonly scale: number;
      readonly unit?: string;
      /** A bare number written into an expression: it goes with any unit. No field has it. */
      readonly isBare?: true;
    }
  | { readonly kind: 'money'; readonly currency: string }
  | { readonly kind: 'rating'; readonly lowest: number; readonly highest: number }
  | {
      readonly kind: 'choice' | 'choices';
      readonly options: readonly Option[];
      /** The option list of the model that the options are taken from; left out for options of its own. */
      readonly list?: string;
    }
  | { readonly kind: 'link'; readonly target: string }
  /** Numbers that Oikon gives to new records one after the other, shown with a prefix and at least so many digits. */
  | { readonly kind: 'serial'; readonly prefix: string; readonly digits: number };

export type Kind = ValueType['kind'];

/**
 * How a value travels as JSON: decimals as strings, money as amount and code, several choices as an array. What was typed and can't be read stands
 * there until it is mended, and is refused wherever it is read.
 */
export type WireValue =
  | null
  | string
  | number
  | boolean
  | readonly string[]
  | { readonly amount: string; readonly currency: string }
  | Unread;
