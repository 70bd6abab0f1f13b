/** What the JSON API answers about imports and what they would do. */

import type { ValueView } from '@/core/verify/explain/views';

/** A row of a file that can't be taken in, and why. */
export interface RefusedRowView {
  readonly line: number;
  /** The heading of the column at fault; empty for the row as a whole. */
  readonly column: string;
  readonly message: string;
}

/** The first records that the rows of a file make and change. */
export interface ImportSamples {
  readonly created: readonly { readonly line: number; readonly title: string }[];
  readonly changed: readonly {
    readonly line: number;
    readonly id: string;
    readonly title: string;
    readonly changes: readonly {
      readonly field: string;
      readonly name: string;
      readonly before: ValueView;
      readonly after: ValueView;
    }[];
  }[];
}

/** What one rule writes after an import, on how many records; some of those that were there before. */
export interface ImportEffect {
  readonly rule: { readonly id: string; readonly name: string };
  readonly type: string;
  readonly typeName: string;
  /** `null`: records were made. */
  readonly fieldName: string | null;
  readonly records: number;
  readonly samples: readonly {
    readonly id: string;
    readonly title: string;
    readonly before: ValueView;
    readonly after: ValueView;
  }[];
}

/** What an import of a file does, or would do. */
export interface ImportView {
  /** Rows of the file, without its heading. */
  readonly read: number;
  readonly created: number;
  readonly changed: number;
  /** Rows of records that have all their values already. */
  readonly same: number;
  readonly refused: number;
  readonly refusals: readonly RefusedRowView[];
  readonly samples: ImportSamples;
  readonly effects: readonly ImportEffect[];
  /** The run as which it was saved; `null` for a rehearsal. */
  readonly run: string | null;
}
