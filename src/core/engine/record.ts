import type { ErrorCode, Value } from '../values';

/** A record as the engine sees it. Every field of its type has an entry in `values`; `errors` has those that are in error. */
export interface Row {
  readonly type: string;
  readonly id: string;
  /** Counts the changes that people made; a value that a rule keeps doesn't raise it. */
  readonly version: number;
  readonly deleted: boolean;
  readonly values: Readonly<Record<string, Value>>;
  readonly errors: Readonly<Record<string, ErrorCode>>;
}

export interface RecordRef {
  readonly type: string;
  readonly id: string;
}

export interface CellRef extends RecordRef {
  readonly field: string;
}

/** Ids are UUIDs and keys have no blanks, so one blank separates them safely. */
export const recordKey = ({ type, id }: RecordRef): string => `${type} ${id}`;
