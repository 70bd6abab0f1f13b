import type { ImportColumn } from '@/core/intake';

/** A file on its way to the page that takes its rows in. */
export interface Handed {
  /** The type whose records its rows are. */
  readonly type: string;
  readonly plural: string;
  readonly file: File;
  /** Which column fills which field. */
  readonly columns: readonly ImportColumn[];
}

let waiting: readonly Handed[] = [];

/** Hands files on to the pages that take them in, one after another. */
export const handFiles = (files: readonly Handed[]): void => void (waiting = files);

/** The file for a type, once. */
export function takeFile(type: string): Handed | null {
  const found = waiting.find((one) => one.type === type);
  waiting = waiting.filter((one) => one !== found);
  return found ?? null;
}

/** The file that waits next, if one does. */
export const nextFile = (): Handed | null => waiting[0] ?? null;
