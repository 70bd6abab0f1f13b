/** What the JSON API answers about rules, their versions, proofs and what taking them live would change. */

import type { RuleProblem } from '@/core/plan';
import type { Pilot, RuleDefinition, RuleState } from '@/core/rules';
import type { Expectation, ProofResult } from '@/core/verify/proof/proof';
import type { CaseSort } from '@/core/verify/proof/describe-proof';
import type { ValueView } from '@/core/verify/explain/views';
import type { MissedProof, ProofStanding } from '@/core/verify/proof/proofs-among';

/** A rule as its page shows it. */
export interface RuleView {
  readonly id: string;
  readonly name: string;
  /** Whether a person named it; else its name follows what it says. */
  readonly isNamed: boolean;
  readonly note: string;
  /** Words by which people put rules together. */
  readonly tags: readonly string[];
  readonly state: RuleState;
  /** Raised by every change of the rule; a PATCH names the one it saw. */
  readonly version: number;
  readonly definition: RuleDefinition;
  readonly sentence: string;
  /** For a live rule that has been changed: what is live, until the change is taken live too. */
  readonly liveDefinition: RuleDefinition | null;
  readonly hasChangesNotLive: boolean;
  readonly stateChangedAt: string;
  /** For which records it runs, while it is a pilot: also in words. `null` where it runs for all, or isn't live. */
  readonly pilot: {
    readonly scope: Pilot;
    readonly words: string;
    /** Of a rule whose change is tried beside it: what is tried; elsewhere it goes on as it is live. `null`: elsewhere it does nothing. */
    readonly tried: RuleDefinition | null;
  } | null;
  /** For a live rule of a slower pace: what waits for it; `null` for others. */
  readonly later: LaterView | null;
  /** What stands in the way of taking it live. */
  readonly findings: readonly RuleProblem[];
}

/** A rule of which parts aren't chosen yet: nothing is worked out of it. */
export interface UnfinishedRule {
  readonly id: string;
  /** The rule whose change it is; `null` of a new one. */
  readonly rule: string | null;
  /** As it was given; empty where it wasn't yet. */
  readonly name: string;
  readonly note: string;
  readonly content: UnfinishedContent;
  /** Who wrote it last, by name. */
  readonly person: string;
  /** An instant, in UTC. */
  readonly at: string;
}

/** What is chosen so far, by the form in which the interface holds it. */
export interface UnfinishedContent {
  readonly kind: RuleDefinition['kind'];
  readonly of: Readonly<Record<string, unknown>>;
}

/** What waits until a rule's pace comes round. */
export interface LaterView {
  /** How many of its values aren't what they would be now; `null` where that isn't counted: all may be, or more than 5,000 are. */
  readonly values: number | null;
  /** Since when the first of them waits; `null` where none does. */
  readonly since: string | null;
  /** When its timetable comes round next; `null` without one. */
  readonly next: string | null;
  /** Why its values couldn't be brought up to date the last time. */
  readonly problem: string | null;
}

/** What taking a rule live would change in the real data: that rule first, then each that reads what it writes. */
export interface LivePreview {
  /** What its proofs, and those of other live rules, say of it. */
  readonly proofs: ProofStanding & { readonly missed: readonly MissedProof[] };
  readonly effects: readonly LiveEffect[];
  /** Rules that react to what it fills, and act on it where that is wanted. */
  readonly reacting: readonly { readonly id: string; readonly name: string }[];
  /** Records that other rules would make then. */
  readonly alsoMade: readonly {
    readonly rule: { readonly id: string; readonly name: string };
    readonly name: string;
    readonly plural: string;
    readonly made: number;
  }[];
  /** Why a rule that reacts can't act at once on the records that match already; left out where it can. */
  readonly actsProblem?: string;
  /** Of a rule that makes records: what it would make or propose at once for those that match. */
  readonly makes: {
    readonly name: string;
    readonly plural: string;
    readonly made: number;
    readonly proposed: number;
    /** Titles of the first of them; of what is proposed, those for which. */
    readonly titles: readonly string[];
  } | null;
}

/** What taking several rules live in one run would change. */
export interface JointPreview {
  readonly proofs: Omit<ProofStanding, 'rule'> & { readonly missed: readonly MissedProof[] };
  /** Rules that act on what comes from then on, and leave what is there as it is. */
  readonly fromNowOn: readonly { readonly id: string; readonly name: string }[];
  /** What the others would fill, in the order in which they are worked out, and then what reads that. */
  readonly effects: readonly LiveEffect[];
}

export interface Spread {
  /** By how much amounts change, from the lowest bar to the highest; or what fields become, the most frequent first. */
  readonly of: 'differences' | 'changes' | 'values';
  readonly bars: readonly { readonly label: string; readonly records: number }[];
  /** Records whose values have no bar of their own. */
  readonly others: number;
}

export interface LiveEffect {
  readonly rule: { readonly id: string; readonly name: string };
  readonly type: string;
  readonly typeName: string;
  readonly plural: string;
  readonly fieldName: string;
  readonly total: number;
  readonly changed: number;
  readonly inError: number;
  /** How the changes are spread; `null` where nothing changes or it isn't known. */
  readonly spread: Spread | null;
  /** The largest differences first. */
  readonly largest: readonly {
    readonly id: string;
    readonly title: string;
    readonly before: ValueView;
    readonly after: ValueView;
    readonly problem: string | null;
  }[];
}

/** A version of a rule, the newest first. */
export interface RuleVersionView {
  readonly id: string;
  readonly number: number;
  readonly definition: RuleDefinition;
  readonly sentence: string;
  readonly person: string | null;
  readonly madeAt: string;
  readonly isLatest: boolean;
  readonly isLive: boolean;
  /** Whether it is tried on the records of a pilot, beside the live one. */
  readonly isTried: boolean;
  /** Each time it was taken live, the last one first; with why, where proofs didn't hold. */
  readonly takenLive: readonly {
    readonly at: string;
    readonly person: string | null;
    readonly proofs: number;
    readonly held: number;
    readonly reason: string | null;
    /** For which records, where it was as a pilot. */
    readonly pilot: string | null;
  }[];
}

/** The same with which proofs these are. */
export interface RuleProofs extends ProofStanding {
  readonly kept: readonly { readonly id: string; readonly version: number }[];
}

/** A kept proof, without what it runs on. */
export interface ProofHead {
  readonly id: string;
  readonly rule: string;
  readonly name: string;
  readonly day: string;
  readonly expectations: readonly Expectation[];
  readonly version: number;
  readonly person: string | null;
  readonly madeAt: string;
}

/** A rule's proof, run through the rules that are live and the latest version of this rule. */
export interface ProofRunView {
  readonly proof: ProofHead;
  readonly result: ProofResult;
  /** What didn't come true, or what is in the way, in words; empty where it holds. */
  readonly says: readonly string[];
  /** What it expects, in words, one by one. */
  readonly expects: readonly string[];
  /** Whether the rule acts in it, or must not. */
  readonly sort: CaseSort;
}

/** A kept sample family, without its records. */
export interface SampleFamilyView {
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly root: { readonly type: string; readonly id: string };
  readonly members: number;
  readonly person: string | null;
  readonly madeAt: string;
}
