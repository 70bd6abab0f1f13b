/** What somebody else may have to approve in a workspace, by what it says to people. */
export const APPROVED = {
  rules: 'that rules go live',
  model: 'changes of the model',
  bundle: 'that a bundle comes in',
} as const satisfies Readonly<Record<string, string>>;

/** What a workspace may want two people for. */
export type TwoPeopleKind = keyof typeof APPROVED;

/** What is approved; that less of it is wanted, too, where anything is. */
export type ApprovalKind = TwoPeopleKind | 'twoPeople';

/** Something that was asked for, exactly as it was, and what came of it. */
export interface ApprovalView {
  readonly id: string;
  readonly kind: ApprovalKind;
  readonly askedBy: { readonly id: string; readonly name: string };
  readonly askedAt: string;
  readonly note: string;
  /** What it does, a line each. */
  readonly words: readonly string[];
  /** Rules that it is about, by their ids. */
  readonly rules: readonly string[];
  readonly state: 'waiting' | 'done' | 'refused' | 'withdrawn';
  /** Whether what it is about is another by now, so that it can't be approved any more. */
  readonly isMoved: boolean;
  readonly decidedBy: string | null;
  readonly decidedAt: string | null;
  /** Why it was refused. */
  readonly reason: string;
}
