import { type Row } from '@/core/engine';
import { type Reason } from '@/core/expression';
import { type Contribution } from '@/core/rules';
import { type Outcome } from '@/core/values';
import { type FormulaView } from './formula-view';
import { type Tree } from './tree';
import { type ValueView } from './views';

/** One record that a roll-up goes over, and what became of it. */
export interface MemberView {
  /** The record at the far end of a bridge, where the rule goes over one; else the lowest of the route. */
  readonly type: string;
  readonly id: string;
  readonly title: string;
  /** Which of the rule's sources it comes from. */
  readonly source: number;
  /** The record through which it was reached, where there is one between: a loan's title, or the bridge's. */
  readonly through: string | null;
  /** `again`: it was reached before over a bridge, and counts once. `behind`: another one leads by the order. */
  readonly standing: Contribution['kind'] | 'again' | 'behind';
  /** By what it is put in order, in words; `null` where the rule asks for no order. */
  readonly order: string | null;
  /** What it gives or would give; `null` for a count. */
  readonly value: ValueView | null;
  /** What it gives in its own currency, where that was exchanged; `null` otherwise. */
  readonly exchanged: string | null;
  /** Why what it gives can't be worked out, where that can be told. */
  readonly problem: string | null;
  /** Why it doesn't count: each test that left it out, with what was found. */
  readonly reasons: readonly Reason[];
  /** The field that is brought together, when a rule keeps it: it can be opened in turn. */
  readonly opens: string | null;
}

/** Records that a roll-up goes over: those of one route. */
export interface SourceView {
  readonly type: string;
  /** What the record calls them (`Loans`), over several links `Artefacts of its Loans`. */
  readonly name: string;
  readonly typeName: string;
  readonly counted: number;
  readonly total: number;
}

/** A value of the record itself that takes part. */
export interface OwnView {
  readonly role: 'adds' | 'standsIn' | 'whenNone';
  readonly name: string;
  readonly value: ValueView;
  /** Whether it is in the result: what stands in or when none count may be empty, or not be asked. */
  readonly isUsed: boolean;
}

export interface OutcomeView {
  readonly value: ValueView;
  readonly problem: string | null;
}

/** From the result to what is written. */
export interface MapView {
  /** The result itself; `null` where part of it lies outside the family. */
  readonly given: OutcomeView | null;
  /** Each row of the map, what stands otherwise and when none count: at most one is chosen. */
  readonly rows: readonly { readonly when: string; readonly writes: string; readonly isChosen: boolean }[];
  /** Whether the rule acts only when its result changes. */
  readonly isReacting: boolean;
  /** Whether a rule that reacts applies to this record as it stands; `null` where that can't be told. */
  readonly applies: boolean | null;
}

/** What a kept value is made of. */
export interface Explanation {
  readonly rule: { readonly id: string; readonly name: string; readonly sentence: string };
  readonly record: { readonly type: string; readonly id: string; readonly title: string };
  readonly field: { readonly key: string; readonly name: string };
  /** Which records it goes over; all its members come from these. */
  readonly sources: readonly SourceView[];
  readonly own: readonly OwnView[];
  /** The aggregate in words: `sum`. */
  readonly words: string;
  /** Those that count first; a page of them where there are many. */
  readonly members: readonly MemberView[];
  readonly counted: number;
  readonly total: number;
  /**
   * Of what counts besides, that whoever asks doesn't see: how many records, and what they give together, in words. `null` for either where one could be told
   * from the rest. Left out where all is seen.
   */
  readonly unseen?: { readonly records: number | null; readonly text: string | null };
  /** Where the next page of members starts; `null` on the last. */
  readonly next: number | null;
  /** Of a formula: what its pieces come to. */
  readonly formula: FormulaView | null;
  /** Where the rule goes all the way down: the way down, as far as it is at hand. */
  readonly tree: Tree | null;
  /** Where the rule writes something else than its result. */
  readonly map: MapView | null;
  /** What is taken of the same record besides, as far as the family tells. */
  readonly together: readonly { readonly name: string; readonly text: string }[];
  /** What the rule gives, of one that reacts what would stand if it acted now; `null` when part of it lies outside the family. */
  readonly result: OutcomeView | null;
  /** What stands in the record. */
  readonly stored: OutcomeView;
  /** The run that last wrote it, as the ledger has it. */
  readonly writtenBy: { readonly run: string; readonly at: string; readonly person: string | null } | null;
}

/** What of an explanation comes from beyond the members at hand; how many count and how many there are, for each source. */
export interface Totals {
  readonly sources: readonly { readonly counted: number; readonly total: number }[];
  readonly next: number | null;
  /** The result, before a map says what is written for it. */
  readonly result: Outcome | null;
  readonly writtenBy: Explanation['writtenBy'];
}

/** Records of one of a rule's sources. */
export interface SourceRows {
  readonly source: number;
  readonly rows: readonly Row[];
}
