/** What the JSON API answers about requests and acceptance sheets. */

import type { RequestedRule, RequestPoint, RequestStanding } from '@/core/verify/proof/requests';
import type { ProofDescription } from '@/core/verify/proof/describe-proof';

/** Somebody who agreed to what a request came to. */
export interface AgreementView {
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly at: string;
  /** Who wrote it down. */
  readonly person: string | null;
  /** Neither the points nor the rules are others since. */
  readonly isOfNow: boolean;
}

/** What a colleague asked for, with the rules that are written for it and how it stands. */
export interface RequestView {
  readonly id: string;
  readonly name: string;
  readonly askedBy: string;
  /** In the words of who asked. */
  readonly words: string;
  /** The day by which it is wanted. */
  readonly due: string | null;
  readonly points: readonly RequestPoint[];
  readonly rules: readonly RequestedRule[];
  readonly standing: RequestStanding;
  readonly agreements: readonly AgreementView[];
  /** Raised by every change; a PATCH names the one it saw. */
  readonly version: number;
  readonly person: string | null;
  readonly madeAt: string;
}

/** A rule on an acceptance sheet. */
export interface SheetRule extends RequestedRule {
  readonly note: string;
  readonly sentence: string;
  readonly number: number;
  readonly told: readonly ProofDescription[];
  /** What the review found in it, and what is in the way of taking it live. */
  readonly findings: readonly string[];
  /** When the version that is live was taken live, by whom, and why where proofs didn't hold. */
  readonly takenLive: {
    readonly at: string;
    readonly person: string | null;
    readonly reason: string | null;
  } | null;
}

/** All that shows whether a request is met, to be printed and agreed to. */
export interface AcceptanceSheet {
  readonly workspace: string;
  readonly settledDay: string;
  readonly at: string;
  readonly request: RequestView;
  readonly rules: readonly SheetRule[];
}
