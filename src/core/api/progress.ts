/** What the JSON API answers about how far long work has come. */

/** How far long work has come. */
export type Progress =
  /** Rows that were read so far. */
  | { readonly stage: 'reading'; readonly rows: number }
  | { readonly stage: 'checking' | 'writing' }
  /** Groups of rules that were worked out, of all that are reached. */
  | { readonly stage: 'rules'; readonly done: number; readonly of: number };

/** How far the search for how strong proofs are has come: ways to change a rule that proofs were run against, or for which a case was found. */
export interface SearchProgress {
  readonly stage: 'proofs' | 'cases';
  readonly done: number;
  readonly of: number;
}
