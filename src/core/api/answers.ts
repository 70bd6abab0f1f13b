import type { Expression } from '@/core/expression';
import type { Field, OptionList, Pace, RecordType, RuleDefaults, Selection, StorageStep } from '@/core/model';
import type { RuleProblem } from '@/core/plan';
import type { Pilot, RuleDefinition, RuleState } from '@/core/rules';
import type { Problem } from '@/core/values';
import type { WireRecord } from '@/core/verify/family/family';
import type { ModelEffects } from '@/core/verify/review/model-effects';
import type { Expectation, ProofResult } from '@/core/verify/proof/proof';
import type { MadeByView, MakerView } from './proposals';
import type { RequestedRule, RequestPoint, RequestStanding } from '@/core/verify/proof/requests';
import type { CaseSort, ToldProof } from '@/core/verify/proof/describe-proof';
import type { RippleView, ValueView } from '@/core/verify/explain/views';

/** What the JSON API answers beside rehearsals, families and explanations: read by the interface and by outside clients. */

/** Something that went wrong by itself and wants a person. */
export type NoticeView =
  /** A message that was tried for days; it can be sent again or dropped. */
  | {
      readonly kind: 'message';
      readonly id: string;
      readonly person: string;
      readonly subject: string;
      readonly failure: string;
      readonly at: string;
    }
  /** The settled day lies ahead of the calendar; it can be set back. */
  | { readonly kind: 'dayAhead'; readonly settledDay: string; readonly today: string }
  /** A day that the server's clock shows isn't settled. */
  | { readonly kind: 'clock'; readonly message: string };

/** Something that was done to the installation itself. */
export interface InstallationEventView {
  readonly id: string;
  /** An instant, in UTC. */
  readonly at: string;
  /** Who did it; `null`: Oikon itself. */
  readonly person: string | null;
  readonly kind: 'made' | 'copied' | 'imported' | 'renamed' | 'removed';
  /** The workspace’s key, and its name as it was then. */
  readonly workspace: string;
  readonly name: string;
  /** Of a copy the source, of a new name the one before, of a bundle who came into the installation with it. */
  readonly data: {
    readonly copyOf?: string;
    readonly before?: string;
    readonly people?: readonly { readonly name: string }[];
  };
}

export interface WorkspaceView {
  /** As it stands in addresses. */
  readonly key: string;
  readonly name: string;
}

export interface PersonView {
  readonly id: string;
  readonly name: string;
  readonly role: string;
}

/** What names a rule. */
export interface RuleName {
  readonly id: string;
  readonly name: string;
  readonly kind: RuleDefinition['kind'];
}

/** Who keeps which field: a live rule, or a paused one, whose values stand still. Into which a rule only reacts, people enter too. */
export interface KeeperView {
  readonly type: string;
  readonly field: string;
  readonly isReacting: boolean;
  /** It keeps the field in step where it applies; elsewhere people enter it. Which records those are, a record says (`claimed`). */
  readonly isInStep: boolean;
  /** The settled day, where the value hangs on it and the calendar is further on: the value isn't brought up to date yet. */
  readonly asOf: string | null;
  readonly pace: Pace;
  readonly rule: RuleName & { readonly state: RuleState };
}

export interface ModelView {
  /** The workspace's name. */
  readonly name: string;
  readonly types: readonly RecordType[];
  readonly lists: readonly OptionList[];
  readonly selections: readonly Selection[];
  readonly ruleDefaults: RuleDefaults;
  /** The day that relative dates count from. */
  readonly settledDay: string;
  /** The version of the model, for changes of it. */
  readonly version: number;
  readonly keepers: readonly KeeperView[];
}

/** A rule as its page shows it. */
export interface RuleView {
  readonly id: string;
  readonly name: string;
  readonly note: string;
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
  readonly pilot: { readonly scope: Pilot; readonly words: string } | null;
  /** For a live rule of a slower pace: what waits for it; `null` for others. */
  readonly later: LaterView | null;
  /** What stands in the way of taking it live. */
  readonly findings: readonly RuleProblem[];
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

export interface Spread {
  /** By how much amounts change, from the lowest bar to the highest; or what fields become, the most frequent first. */
  readonly of: 'differences' | 'values';
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

export interface RecordList {
  readonly records: readonly WireRecord[];
  /** How many there are, up to a limit (then not exact); only with the first page. */
  readonly count: { readonly number: number; readonly isExact: boolean } | null;
  /** Where the next page goes on; `null` on the last. */
  readonly next: string | null;
  /** Titles of the records and people that they name. */
  readonly names: Readonly<Record<string, string>>;
}

export interface RecordView {
  readonly record: WireRecord;
  /** What it hangs under, the topmost first: over a link to its own type, else over the first link that it has. */
  readonly path: readonly { readonly type: string; readonly id: string; readonly title: string }[];
  readonly names: Readonly<Record<string, string>>;
  /** Fields that a rule of a slower pace keeps and that aren't up to date, with the moment that they are of. */
  readonly asOf: Readonly<Record<string, string>>;
  /** Fields that a rule keeps in step on this record, and so aren't entered here. */
  readonly claimed: readonly string[];
  /** What a person may have made for it by rules. */
  readonly makers: readonly MakerView[];
  /** The rules that made it, each with the record for which. */
  readonly madeBy: readonly MadeByView[];
  /** Of a record in the bin: who deleted it and when, and the record with which it went. */
  readonly deletion: {
    readonly run: string;
    readonly at: string;
    readonly person: string | null;
    readonly with: { readonly type: string; readonly id: string; readonly title: string } | null;
  } | null;
}

/** A saved run: its number (`null` when nothing changed) and what followed. */
export interface SavedRun {
  readonly run: string | null;
  readonly ripple: RippleView;
}

/** A run in a record's history: who or which rule changed what, when, and what it followed from. */
export interface HistoryEntry {
  readonly run: string;
  readonly at: string;
  readonly kind: 'save' | 'load' | 'import' | 'listEdit' | 'live' | 'pause' | 'model' | 'day' | 'pace';
  readonly event: 'created' | 'changed' | 'deleted' | 'restored';
  readonly person: string | null;
  readonly note: string;
  /** The rule that made, deleted or restored it, and for which record. */
  readonly rule: RuleName | null;
  readonly causes: readonly string[];
  readonly changes: readonly {
    readonly field: Field['key'];
    readonly fieldName: string;
    readonly before: ValueView;
    readonly after: ValueView;
    readonly rule: RuleName | null;
    /** In words: `Insured value of Kestrel Museum, court robes`. */
    readonly causes: readonly string[];
  }[];
}

/** A record that a search over everything found. */
export interface FoundRecord {
  readonly type: string;
  readonly typeName: string;
  readonly id: string;
  readonly title: string;
}

/** Runs that changed a record, the latest first. */
export interface History {
  readonly entries: readonly HistoryEntry[];
  /** The run before which earlier ones are asked for; `null` when these are the last. */
  readonly next: string | null;
}

/** A run in the ledger's list. */
export interface RunHead {
  readonly run: string;
  readonly at: string;
  readonly kind: HistoryEntry['kind'];
  readonly person: string | null;
  readonly note: string;
}

export interface RunList {
  readonly runs: readonly (RunHead & {
    /** Records that it changed, counted exactly. */
    readonly changed: { readonly number: number; readonly isExact: boolean };
  })[];
  /** Where the next page goes on; `null` on the last. */
  readonly next: string | null;
}

/** How many records a run did something to: by whom or which rule, and of which type. A record counts once for each that wrote it. */
export interface RunCount {
  readonly type: string;
  readonly typeName: string;
  readonly plural: string;
  readonly kind: 'created' | 'changed' | 'deleted' | 'restored';
  /** `null`: a person entered it, or it went or came along with another. */
  readonly rule: { readonly id: string; readonly name: string } | null;
  readonly records: number;
}

/** A run with its ripple. */
export interface RunView extends RunHead {
  /** Counted exactly, whatever its size; with the first page only. */
  readonly counts: readonly RunCount[] | null;
  readonly waves: RippleView['waves'];
  /** Where the run goes on, page by page: `null` when this is the last. */
  readonly next: string | null;
}

/** What undoing a run does, or would do; the same whatever its size. */
export interface UndoView {
  readonly run: string;
  /** The run that undid it; `null` before. */
  readonly undoneBy: string | null;
  /** Values that are written back, by field; with some of them. */
  readonly written: readonly UndoneField[];
  /** Records that the run made, or brought back, and that go into the bin; records that it deleted, and that come back. */
  readonly records: readonly UndoneRecords[];
  /** What rules that keep a field work out after it. */
  readonly effects: readonly ImportEffect[];
  /** How much stays as it is: values, and records. */
  readonly leftCount: number;
  /** What stays, the first of it, and why. */
  readonly left: readonly LeftByUndo[];
  /** Messages to people that had been sent, which nothing takes back. */
  readonly messagesSent: number;
}

export interface UndoneField extends Omit<ImportEffect, 'rule' | 'fieldName'> {
  readonly fieldName: string;
}

export interface UndoneRecords {
  readonly kind: 'deleted' | 'restored';
  readonly type: string;
  readonly typeName: string;
  readonly records: number;
  readonly samples: readonly { readonly id: string; readonly title: string }[];
}

/** A value, or a record, that an undo leaves as it is. */
export interface LeftByUndo {
  readonly type: string;
  readonly id: string;
  readonly title: string;
  /** `null` for the record itself. */
  readonly fieldName: string | null;
  /** What stood there before the run, what the run left, and what stands there now; `null` where that can't be told. */
  readonly before: ValueView | null;
  readonly after: ValueView | null;
  readonly current: ValueView | null;
  readonly reason: string;
}

/** What one step of a change of the model does to what is stored. */
export interface StepView {
  readonly kind: StorageStep['kind'];
  readonly type: string;
  readonly typeName: string;
  /** Of a field; `null` for a whole type. */
  readonly field: string | null;
  readonly name: string;
  /** Records, or values of the field, that it concerns. */
  readonly stored: number;
  /** Of these: rounded, replaced or filled; and emptied for good. */
  readonly altered: number;
  readonly lost: number;
  /** The most frequent values that come out otherwise. */
  readonly samples: readonly { readonly before: string; readonly after: string; readonly records: number }[];
  /** Why it can't be done as it is; `null` where it can. */
  readonly refusal: Problem | null;
}

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

export interface SavedListView {
  readonly id: string;
  readonly name: string;
  readonly definition: SavedListDefinition;
  readonly version: number;
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
export interface ProofRun {
  readonly proof: ProofHead;
  readonly result: ProofResult;
  /** What didn't come true, or what is in the way, in words; empty where it holds. */
  readonly says: readonly string[];
  /** What it expects, in words, one by one. */
  readonly expects: readonly string[];
  /** Whether the rule acts in it, or must not. */
  readonly sort: CaseSort;
}

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
  readonly told: readonly ToldProof[];
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

/** A proof that doesn't hold, with what came instead. */
export interface MissedProof {
  readonly rule: { readonly id: string; readonly name: string };
  readonly name: string;
  readonly says: readonly string[];
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

/** How many proofs a rule has, and how many of them hold. */
export interface ProofStanding {
  readonly rule: string;
  readonly proofs: number;
  readonly held: number;
}

/** The same with which proofs these are. */
export interface RuleProofs extends ProofStanding {
  readonly kept: readonly { readonly id: string; readonly version: number }[];
}

/** How many records a selection has, and would have. */
export interface SelectionEffect {
  readonly key: string;
  readonly name: string;
  /** The plural of its type. */
  readonly plural: string;
  /** `null` for one that isn't there before, or afterwards. */
  readonly before: number | null;
  readonly after: number | null;
}

/** What a change of the model would do, and what stands against it. */
export interface ModelRehearsal extends ModelEffects {
  readonly steps: readonly StepView[];
  /** Selections that are made or changed: how many records are in each. */
  readonly selections: readonly SelectionEffect[];
  /** What is wrong with the model as it would be, each at its place. */
  readonly problems: readonly Problem[];
  readonly isPossible: boolean;
}

/** A rule by which other records may change when one does. */
export interface FollowerView {
  readonly rule: RuleName;
  readonly type: string;
  readonly typeName: string;
  readonly field: string;
  readonly fieldName: string;
  readonly count: number;
  readonly targets: readonly { readonly id: string; readonly title: string }[];
}

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

/** Records of one type that a workspace and a bundle don't have alike. */
export interface RecordDifference {
  /** Tells it from all others: `loan changed`. */
  readonly id: string;
  readonly type: string;
  /** What one of them is called, and several. */
  readonly name: string;
  readonly plural: string;
  /** Only the bundle has them; both, otherwise; only the workspace. */
  readonly kind: 'new' | 'changed' | 'gone';
  readonly records: number;
  /** Titles of the first of them. */
  readonly titles: readonly string[];
}

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

/** A save that a person put off, since very many records follow from it. */
export interface QueuedSaveView {
  readonly id: string;
  readonly person: string;
  readonly at: string;
  readonly note: string;
  /** How many records it edits. */
  readonly edits: number;
  /** The first of them, and its fields that change. */
  readonly record: {
    readonly type: string;
    readonly id: string;
    readonly title: string;
    readonly fieldNames: readonly string[];
  };
  /** Why it was refused; `null` while it waits for its turn. */
  readonly problem: string | null;
}
