import type { CompiledCreate, CompiledLinked, CompiledRule, ReactingCascade } from '@/core/rules';
import type { Touched } from '@/core/engine/driver/record';

/** Records of a whole type, as a run over many names them. Which these are its driver knows. */
export type TargetSet =
  | { readonly kind: 'all' }
  /** Those that wait for a rule of a slower pace that has come round. */
  | { readonly kind: 'due'; readonly rule: string }
  /** Those whose yes/no field turned yes in this run. */
  | { readonly kind: 'asking'; readonly field: string }
  /** Those that the records which were written name over a link, or named before. */
  | { readonly kind: 'parents'; readonly link: string };

/** What rules that react do: on a change of their result, on every record whose result asks for a value, or not at all. */
export type Acting = 'onChange' | 'onAll' | 'onNone';

/** Which of the records that the run made or changed are wanted, in the order of their ids. */
export interface ChangedQuery {
  readonly type: string;
  /** Fields of which one must have changed; `null` for any. */
  readonly watched: readonly string[] | null;
  /** Which records that the run made are told: all, those that meet the condition of a rule that makes records, or none. */
  readonly made: 'all' | 'none' | CompiledCreate;
  /** Records that went into the bin are told too. */
  readonly isGoneTold?: boolean;
  /** Only those of these. */
  readonly among?: readonly string[];
  /** All records as they stand, as if what this rule watches had just been filled. */
  readonly standing?: ReactingCascade;
  readonly after: string;
  readonly most: number;
}

/** A record that a run touched; `written` are the fields that no rule wrote. */
export interface TouchedInRun extends Touched {
  readonly written: readonly string[];
}

export interface ChangedPage {
  readonly touched: readonly TouchedInRun[];
  /** The id after which the next page begins; `null` on the last. */
  readonly next: string | null;
}

/**
 * What a run over many asks of its driver beside what any run does; the run is written already.
 *
 * - `turn`: so many steps of the schedule are done.
 * - `changed`: a page of the records that the run made or changed, as they were before it and as they stand.
 * - `turned`: a page of the records for which a rule that makes others means something else since the day turned.
 * - `entered`: ids of the records on which a field was entered in this run, or assigned to one that a rule made in it.
 * - `page`: what was asked and written before is done with; records are known by what is told here alone.
 * - `fill`: rules that go over the same link are worked out for their targets, and what differs is written. `taken` are records on which a rule that
 *   comes first has written what they react into. Told are the counts, and of rules that react with rivals where they wrote.
 * - `leave`: targets of a rule of a slower pace are noted for when that comes round.
 * - `settled`: no target of these rules waits any more.
 * - `askWhich`: of links for which several records are found a person is asked.
 */
export type SetNeed =
  | { readonly kind: 'turn'; readonly done: number; readonly of: number }
  | { readonly kind: 'changed'; readonly query: ChangedQuery }
  | {
      readonly kind: 'turned';
      readonly rule: CompiledCreate;
      readonly from: CompiledCreate;
      readonly which: { readonly among: readonly string[] } | { readonly after: string };
      readonly most: number;
    }
  | { readonly kind: 'entered'; readonly rule: CompiledRule }
  | { readonly kind: 'page'; readonly touched: readonly Touched[] }
  | {
      readonly kind: 'fill';
      readonly rules: readonly CompiledRule[];
      readonly targets: TargetSet;
      readonly acting: Acting;
      readonly taken: readonly string[];
      readonly tellsTaken: boolean;
    }
  | { readonly kind: 'leave'; readonly rule: CompiledRule; readonly targets: TargetSet }
  | { readonly kind: 'settled'; readonly rules: readonly string[] }
  | { readonly kind: 'askWhich'; readonly rule: CompiledLinked };

export interface SetAnswers {
  turn: null;
  changed: ChangedPage;
  turned: readonly string[];
  entered: readonly string[];
  page: null;
  fill: { readonly counts: readonly number[]; readonly taken: readonly string[] };
  leave: null;
  settled: null;
  askWhich: null;
}
