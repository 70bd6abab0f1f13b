import type { TypedExchange, TypedField, TypedGather } from '@/core/expression';

/** What records beneath come to, as SQL. */
export interface Gathered {
  readonly value: string;
  readonly error: string | null;
}

/** Gives the SQL of what an expression reads: fields on the right alias, whether they are in error, and what lies beneath. */
export interface Reads {
  read(field: TypedField): string;
  /** SQL of whether the field is in error; `null` where it can't be. */
  error(field: TypedField): string | null;
  gather(node: TypedGather): Gathered;
  /** SQL of the rate that counts, given that of the pair and of the day; NULL where there is none. */
  rate(node: TypedExchange, pair: string, day: string): string;
}
