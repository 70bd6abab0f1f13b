import type { UnfinishedRule } from '@/core/api';
import type { SavedListDefinition } from '@/core/model';
import type { MadeFor, WireEdit } from '@/core/engine';
import type { Expression } from '@/core/expression';
import type { RuleDefinition } from '@/core/rules';
import type { FamilyData, RunSetting, Expectation, RequestPoint } from '@/core/verify';
import type { Tell } from '@/server/progress';

/** What a person decides of a proposal: it is done, perhaps otherwise than proposed; or not, for a reason; or they have seen what was done. */
export type Decision =
  | { readonly id: string; readonly decision: 'approve'; readonly values?: Readonly<Record<string, unknown>> }
  | { readonly id: string; readonly decision: 'refuse'; readonly reason: string }
  | { readonly id: string; readonly decision: 'seen' };

export interface ListEditInput {
  readonly workspace: string;
  readonly person: string;
  readonly type: string;

  /** Which records: those whose title holds a text, and those for which a condition holds; all when both are left out. */
  readonly search?: string;
  readonly condition?: Expression;

  /** What they are to have, in wire form. */
  readonly values: Readonly<Record<string, unknown>>;
  readonly tell?: Tell;
}

export interface SavedListEdit extends ListEditInput {
  /** How many records the rehearsal said would change: where it would be another number now, nothing is saved. */
  readonly expected: number;
  readonly note?: string;
}

export interface MergeInput {
  readonly bundle: string;

  /** Ids of the differences that are taken over. */
  readonly chosen: readonly string[];
}

export interface UnfinishedInput extends Pick<UnfinishedRule, 'rule' | 'name' | 'note' | 'content'> {
  /** The one that it goes on with; a new one where left out. */
  readonly id?: string;
}

export interface WorkspaceInput {
  readonly name: string;

  /** The key of the workspace to copy; left out, the new one is empty. */
  readonly copyOf?: string;

  /** Whether the copy has the records too, with their history; else the model and the rules only. */
  readonly withRecords?: boolean;

  /** The IANA name of the time zone of a workspace that copies none (`Europe/London`). */
  readonly timeZone?: string;
}

export interface NewProof {
  readonly rule: string;
  readonly name: string;
  readonly family: FamilyData;

  /** The settled day by which it runs; today's where left out. */
  readonly day?: string;
  readonly runs: readonly (readonly WireEdit[])[];

  /** On which days its runs are made, and by whom. */
  readonly settings?: readonly RunSetting[];
  readonly expectations: readonly Expectation[];
}

export interface ProofPatch {
  readonly version: number;
  readonly name?: string;
  readonly expectations?: readonly Expectation[];
}

export interface Agreement {
  /** Who agrees. */
  readonly name: string;
  readonly note?: string;

  /** The version of the request that they saw. */
  readonly version: number;
}

export interface RequestInput {
  readonly name: string;

  /** Who asked: a person of the workspace or anybody else. */
  readonly askedBy?: string;
  readonly words?: string;

  /** The day by which it is wanted: `2027-03-01`. */
  readonly due?: string | null;
  readonly points?: readonly RequestPoint[];

  /** Ids of the rules that are written for it. */
  readonly rules?: readonly string[];
}

export interface RequestPatch extends Partial<RequestInput> {
  readonly version: number;
}

export interface FamiliesBy {
  /** What their names begin with; the option's name follows. */
  readonly name: string;
  readonly type: string;

  /** A choice field of the type: one family for each of its options that a record has. */
  readonly field: string;

  /** Only records of this selection. */
  readonly selection?: string;
}

export interface NewFamily {
  readonly name: string;
  readonly note?: string;

  /** The root of a family that is picked from the data, and over which links down it goes (`loan.exhibition`); all when left out. */
  readonly root?: { readonly type: string; readonly id: string };
  readonly links?: readonly string[];

  /** A family as it stands on the bench, or written by hand. */
  readonly data?: FamilyData;
}

export interface SavedListInput {
  readonly name: string;
  readonly definition: SavedListDefinition;
}

/** An edit of a record as it was seen; `*`: whatever stands there. */
export type SeenEdit = Omit<WireEdit, 'version'> & { readonly version?: number | '*' };

export interface NewRecordBody {
  readonly values: Readonly<Record<string, unknown>>;
  readonly id?: string;
  readonly madeFor?: MadeFor;
}

/** Where very many records would follow: they do at once, it is asked first, or it is saved soon after. */
export type WhereMany = 'now' | 'ask' | 'soonAfter';

export interface RecordPatch {
  readonly values: Readonly<Record<string, unknown>>;
  readonly version: number | '*';
  readonly many?: WhereMany;
}

export interface RuleBody {
  readonly definition: RuleDefinition;
  readonly name?: string;
  readonly note?: string;
  readonly tags?: readonly string[];
}

export interface RulePatch extends Partial<RuleBody> {
  readonly version: number;
}

export interface RehearsalBody {
  readonly edits: readonly SeenEdit[];
  readonly drafts: readonly {
    readonly id?: string;
    readonly name?: string;
    readonly definition: RuleDefinition;
  }[];
}

/** A group as it is asked for; what isn't there stays as it is. */
export interface GroupInput {
  readonly name?: string;
  readonly claim?: string | null;
  /** Ids of people. Of a group with a claim the company's sign-in says who is in it. */
  readonly members?: readonly string[];
}
