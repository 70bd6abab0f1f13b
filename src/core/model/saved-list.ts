import type { Expression } from '@/core/syntax/expression';

/** What a kept list shows: records of a type, or those of several selections joined. */
export type SavedListDefinition =
  | {
      readonly kind: 'list';
      readonly type: string;
      /** Keys of the fields beside the title, in order. */
      readonly columns: readonly string[];
      /** Key of a field, with `-` before it for the other way round; `null` for the title. */
      readonly sort: string | null;
      readonly condition: Expression | null;
    }
  | { readonly kind: 'joined'; readonly selections: readonly string[] };
