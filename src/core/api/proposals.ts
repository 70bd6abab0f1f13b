import type { Missing, WireEdit } from '@/core/engine';
import type { Problem, WireValue } from '@/core/values';
import type { RuleName, ValueView } from '@/core/verify/explain/views';

/** A rule by which a person may have a record made for another. */
export interface MakerView {
  readonly rule: RuleName;
  /** The type of what is made. */
  readonly makes: string;
  readonly makesName: string;
  /** Whether the record meets the rule's condition. */
  readonly meets: boolean;
  readonly isOnce: boolean;
  readonly made: readonly { readonly type: string; readonly id: string; readonly title: string }[];
}

/** The rule that made a record, and for which. */
export interface MadeByView {
  readonly rule: RuleName;
  readonly source: { readonly type: string; readonly id: string; readonly title: string };
}

/** What a rule would make for a record: the form as it would be filled. */
export interface FilledView {
  readonly rule: RuleName;
  readonly source: { readonly type: string; readonly id: string; readonly title: string };
  readonly type: string;
  readonly values: Readonly<Record<string, WireValue>>;
  readonly missing: readonly Missing[];
  readonly names: Readonly<Record<string, string>>;
}

/** What a rule prepared for people to approve, or tells them of. */
export interface ProposalView {
  readonly id: string;
  /** `make`: a record for another · `follow`: what was made would follow · `return`: a change of it would go back · `choose`: a link has several that fit. */
  readonly kind: 'make' | 'follow' | 'return' | 'choose';
  readonly state: 'open' | 'told' | 'approved' | 'refused' | 'withdrawn' | 'seen';
  readonly rule: RuleName;
  /** When, and in whose run, it was proposed. */
  readonly at: string;
  readonly run: string;
  readonly person: string | null;
  /** The type of what would be made or written to. */
  readonly type: string;
  readonly typeName: string;
  readonly source: {
    readonly type: string;
    readonly typeName: string;
    readonly id: string;
    readonly title: string;
  };
  readonly target: { readonly type: string; readonly id: string; readonly title: string } | null;
  readonly fields: readonly {
    readonly field: string;
    readonly fieldName: string;
    /** As it stands now; `null` where a record would be made. */
    readonly before: ValueView | null;
    readonly after: ValueView | null;
    /** Why it can't be as proposed: a person fills it in. */
    readonly missing: Missing['reason'] | null;
    /** Of a link that may name several: which. */
    readonly candidates: readonly {
      readonly id: string;
      readonly title: string;
      /** What tells it from others of the same title: what it hangs under, and when it was made. */
      readonly under: string;
    }[];
  }[];
  /** What approving it as it is does. */
  readonly edit: WireEdit;
  readonly decidedBy: string | null;
  readonly decidedAt: string | null;
  readonly decidedRun: string | null;
  readonly reason: string | null;
}

export interface ProposalList {
  readonly proposals: readonly ProposalView[];
  /** How many wait for approval, and how many people are told of. */
  readonly open: number;
  readonly told: number;
}

export interface ProposalDecided {
  readonly id: string;
  readonly run: string | null;
  readonly problem: Problem | null;
}

/** What was written to a person in charge. */
export interface MessageView {
  readonly id: string;
  readonly person: string;
  readonly subject: string;
  readonly body: string;
  readonly run: string;
  readonly at: string;
  /** When the message service took it; `null` until then. */
  readonly sentAt: string | null;
  /** Why it couldn't, the last time. */
  readonly failure: string | null;
}
