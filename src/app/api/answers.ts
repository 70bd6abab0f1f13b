import type { Use, Dictionary } from '@/core/verify';
import type {
  AcceptanceSheet,
  DependantView,
  FilledView,
  FoundRecord,
  History,
  ImportView,
  InstallationEventView,
  JointPreview,
  LivePreview,
  MessageView,
  ModelRehearsal,
  ModelView,
  NoticeView,
  PersonView,
  ProofRunView,
  ProposalDecided,
  ProposalList,
  QueuedSaveView,
  RecordList,
  RecordView,
  RequestView,
  RuleProofs,
  RuleVersionView,
  RuleView,
  UnfinishedRule,
  RunList,
  GroupPage,
  RunGroups,
  RunLeft,
  RunView,
  SampleFamilyView,
  SavedListView,
  UndoView,
  WorkspaceView,
  LetIn,
  MemberView,
  PeopleAnswer,
  ApprovalView,
  GroupView,
  RoleView,
  WorkspaceGroup,
  OwnSession,
  PasskeyView,
  PersonalData,
  SecondFactorView,
  SecurityEventView,
  ServiceView,
  TokenView,
  SessionAnswer,
  Welcome,
} from '@/core/api';
import type { RoleAccess } from '@/core/model';
import type { WireEdit } from '@/core/engine';
import type {
  Explanation,
  FamilyData,
  FamilyDrift,
  Proof,
  Rehearsal,
  ReviewFinding,
  RippleView,
} from '@/core/verify';
import type { ImportedBundle } from '@/server/actions/bundles/import-bundle';
import type { BundleComparison, Merged } from '@/server/actions/bundles/merge-bundle';
import type { Imported } from '@/server/actions/imports/import-records';
import type { ModelChanged } from '@/server/actions/model/change-model';
import type { FetchedRates } from '@/server/actions/records/fetch-rates';
import type { Saved } from '@/server/actions/records/saving/save';
import type { StateChanged } from '@/server/actions/rules/change-state';
import type { Settled } from '@/server/jobs/settle-days';
import type { StrengthView } from '@/server/queries/rules/strength';
import type { ACCESS, Method } from './access';

/** Nothing: 204. */
type Nothing = 'nothing';
/** A file, whose form its `Content-Type` names. */
type File = 'file';

/** What a browser is told to do with a key, as the Web Authentication API writes it in JSON. */
type WebAuthnOptions = Readonly<Record<string, unknown>>;

/** What came of one run. */
interface RunAnswer {
  /** The run, or null where nothing changed. */
  readonly run: string | null;
  readonly ripple: RippleView;
}
/** A save that was put off: its number among those that wait. */
interface Queued {
  readonly queued: string;
}
interface Decided {
  readonly decision: 'again' | 'drop';
}
interface People {
  readonly people: readonly PersonView[];
}
/** A record that was worked out again, with how many of its values changed. */
interface WorkedOutAgain extends RecordView {
  readonly run: string | null;
  readonly values: number;
}
interface RuleWorkedOut {
  readonly rule: RuleView;
  readonly run: string | null;
  readonly values: number;
}

/**
 * What each route answers where it succeeds: handlers are held to it, and the schemas in docs/oikon.answers.schema.json are made from it.
 * What is refused is a problem detail (RFC 9457).
 */
export interface RouteAnswers {
  '/health': { GET: { readonly status: string } };
  '/api/v1/bundle-schema': { GET: object };
  '/api/v1/bundles': { POST: ImportedBundle };
  '/api/v1/installation-events': {
    GET: { readonly events: readonly InstallationEventView[]; readonly next: string | null };
  };
  '/api/v1/groups': { GET: { readonly groups: readonly GroupView[] }; POST: GroupView };
  '/api/v1/groups/{id}': { PATCH: GroupView; DELETE: Nothing };
  '/api/v1/people': { GET: People };
  '/api/v1/people/{id}': { PATCH: PersonView };
  '/api/v1/passkeys': { GET: { readonly passkeys: readonly PasskeyView[] }; POST: Nothing };
  '/api/v1/passkeys/challenges': { POST: { readonly options: WebAuthnOptions } };
  '/api/v1/passkeys/{handle}': { DELETE: Nothing };
  '/api/v1/people/{id}/data': { GET: PersonalData; DELETE: Nothing };
  '/api/v1/people/{id}/second-factor': { DELETE: Nothing };
  '/api/v1/second-factor': {
    GET: SecondFactorView;
    POST: { readonly address: string; readonly secret: string };
    DELETE: Nothing;
  };
  '/api/v1/second-factor/confirmations': { POST: { readonly spare: readonly string[] } };
  '/api/v1/security-events': {
    GET: { readonly events: readonly SecurityEventView[]; readonly next: string | null };
  };
  '/api/v1/security-events/export': { GET: File };
  '/api/v1/session': { GET: SessionAnswer; POST: SessionAnswer; DELETE: Nothing };
  '/api/v1/session/passkey': { POST: SessionAnswer };
  '/api/v1/session/passkey-challenges': { POST: { readonly options: WebAuthnOptions } };
  '/api/v1/session/password-addresses': { POST: Nothing };
  '/api/v1/session/provider': { GET: File };
  '/api/v1/session/provider/return': { GET: File };
  '/api/v1/session/password': { POST: SessionAnswer };
  '/api/v1/sessions': { GET: { readonly sessions: readonly OwnSession[] } };
  '/api/v1/sessions/{handle}': { DELETE: Nothing };
  '/api/v1/tokens': { GET: { readonly tokens: readonly TokenView[] }; POST: { readonly token: string } };
  '/api/v1/tokens/{handle}': { DELETE: Nothing };
  '/api/v1/welcome': { POST: Welcome };
  '/api/v1/welcome/administrator': { POST: SessionAnswer };
  '/api/v1/welcome/password': { POST: SessionAnswer };
  '/api/v1/workspaces': { GET: { readonly workspaces: readonly WorkspaceView[] }; POST: WorkspaceView };
  '/api/v1/workspaces/{w}': { PATCH: WorkspaceView; DELETE: Nothing };
  '/api/v1/workspaces/{w}/approvals': {
    GET: { readonly approvals: readonly ApprovalView[] };
    POST: ApprovalView;
  };
  '/api/v1/workspaces/{w}/approvals/{id}': { POST: ApprovalView };
  '/api/v1/workspaces/{w}/two-people': { POST: Nothing };
  '/api/v1/workspaces/{w}/bundle': { GET: File };
  '/api/v1/workspaces/{w}/bundle-comparisons': { POST: BundleComparison };
  '/api/v1/workspaces/{w}/bundle-merges': { POST: Merged };
  '/api/v1/workspaces/{w}/bundle-record-edits': { POST: { readonly edits: readonly WireEdit[] } };
  '/api/v1/workspaces/{w}/bundle-rehearsals': { POST: ModelRehearsal };
  '/api/v1/workspaces/{w}/changes': { POST: Saved | Queued };
  '/api/v1/workspaces/{w}/dictionary': { GET: Dictionary };
  '/api/v1/workspaces/{w}/dictionary/export': { GET: File };
  '/api/v1/workspaces/{w}/families/{type}/{id}': { GET: FamilyData };
  '/api/v1/workspaces/{w}/import-rehearsals/{type}': { POST: ImportView };
  '/api/v1/workspaces/{w}/imports/{type}': { POST: ImportView | Imported };
  '/api/v1/workspaces/{w}/list-edit-rehearsals/{type}': { POST: ImportView };
  '/api/v1/workspaces/{w}/list-edits/{type}': { POST: ImportView };
  '/api/v1/workspaces/{w}/lists': { GET: { readonly lists: readonly SavedListView[] }; POST: SavedListView };
  '/api/v1/workspaces/{w}/lists/{id}': { PATCH: SavedListView; DELETE: Nothing };
  '/api/v1/workspaces/{w}/live-rules': { POST: StateChanged };
  '/api/v1/workspaces/{w}/live-rules/preview': { POST: JointPreview };
  '/api/v1/workspaces/{w}/messages': { GET: { readonly messages: readonly MessageView[] } };
  '/api/v1/workspaces/{w}/messages/{id}': { POST: Decided };
  '/api/v1/workspaces/{w}/model-changes': { POST: ModelChanged };
  '/api/v1/workspaces/{w}/model-rehearsals': { POST: ModelRehearsal };
  '/api/v1/workspaces/{w}/notices': { GET: { readonly notices: readonly NoticeView[] } };
  '/api/v1/workspaces/{w}/paused-rules': { POST: StateChanged };
  '/api/v1/workspaces/{w}/groups': { GET: { readonly groups: readonly WorkspaceGroup[] } };
  '/api/v1/workspaces/{w}/groups/{id}': { PATCH: WorkspaceGroup };
  '/api/v1/workspaces/{w}/roles/{id}/access': {
    GET: { readonly access: RoleAccess };
    POST: { readonly access: RoleAccess };
  };
  '/api/v1/workspaces/{w}/second-step-roles': { POST: Nothing };
  '/api/v1/workspaces/{w}/roles': { POST: RoleView };
  '/api/v1/workspaces/{w}/roles/{id}': { PATCH: RoleView; DELETE: Nothing };
  '/api/v1/workspaces/{w}/people': { GET: PeopleAnswer; POST: LetIn };
  '/api/v1/workspaces/{w}/people/{id}': { PATCH: MemberView; DELETE: Nothing };
  '/api/v1/workspaces/{w}/people/{id}/password-addresses': { POST: { readonly secret: string } };
  '/api/v1/workspaces/{w}/proofs': { GET: { readonly rules: readonly RuleProofs[] }; POST: ProofRunView };
  '/api/v1/workspaces/{w}/proofs/{id}': { GET: Proof; PATCH: ProofRunView; DELETE: Nothing };
  '/api/v1/workspaces/{w}/proposals': { GET: ProposalList };
  '/api/v1/workspaces/{w}/proposals/decisions': { POST: { readonly decided: readonly ProposalDecided[] } };
  '/api/v1/workspaces/{w}/queued-saves': { GET: { readonly saves: readonly QueuedSaveView[] } };
  '/api/v1/workspaces/{w}/queued-saves/{id}': { POST: Decided };
  '/api/v1/workspaces/{w}/rates': { POST: FetchedRates };
  '/api/v1/workspaces/{w}/records/{type}': { GET: RecordList; POST: RecordView & RunAnswer };
  '/api/v1/workspaces/{w}/records/{type}/export': { GET: File };
  '/api/v1/workspaces/{w}/records/{type}/{id}': {
    GET: RecordView;
    PATCH: RunAnswer | Queued;
    DELETE: RunAnswer;
  };
  '/api/v1/workspaces/{w}/records/{type}/{id}/explanations/{field}': { GET: Explanation };
  '/api/v1/workspaces/{w}/records/{type}/{id}/followers': {
    GET: { readonly followers: readonly DependantView[] };
  };
  '/api/v1/workspaces/{w}/records/{type}/{id}/history': { GET: History };
  '/api/v1/workspaces/{w}/records/{type}/{id}/recalculations/{field}': { POST: WorkedOutAgain };
  '/api/v1/workspaces/{w}/rehearsals': { POST: Extract<Rehearsal, { readonly kind: 'done' }> };
  '/api/v1/workspaces/{w}/requests': {
    GET: { readonly requests: readonly RequestView[] };
    POST: RequestView;
  };
  '/api/v1/workspaces/{w}/requests/{id}': { PATCH: RequestView; DELETE: Nothing };
  '/api/v1/workspaces/{w}/requests/{id}/agreements': { POST: RequestView };
  '/api/v1/workspaces/{w}/requests/{id}/sheet': { GET: AcceptanceSheet };
  '/api/v1/workspaces/{w}/rule-reviews': { POST: { readonly findings: readonly ReviewFinding[] } };
  '/api/v1/workspaces/{w}/unfinished-rules': {
    GET: { readonly rules: readonly UnfinishedRule[] };
    POST: UnfinishedRule;
  };
  '/api/v1/workspaces/{w}/unfinished-rules/{id}': { DELETE: Nothing };
  '/api/v1/workspaces/{w}/rule-samples': { POST: { readonly id: string | null } };
  '/api/v1/workspaces/{w}/rule-tags': { POST: { readonly rules: readonly RuleView[] } };
  '/api/v1/workspaces/{w}/rules': { GET: { readonly rules: readonly RuleView[] }; POST: RuleView };
  '/api/v1/workspaces/{w}/rules/{id}': { GET: RuleView; PATCH: RuleView; DELETE: Nothing };
  '/api/v1/workspaces/{w}/rules/{id}/filled/{source}': { GET: FilledView };
  '/api/v1/workspaces/{w}/rules/{id}/preview': { GET: LivePreview; POST: LivePreview };
  '/api/v1/workspaces/{w}/rules/{id}/preview/changes': { POST: File };
  '/api/v1/workspaces/{w}/rules/{id}/proofs': { GET: { readonly proofs: readonly ProofRunView[] } };
  '/api/v1/workspaces/{w}/rules/{id}/proofs/whole': { GET: { readonly proofs: readonly Proof[] } };
  '/api/v1/workspaces/{w}/rules/{id}/recalculations': { POST: RuleWorkedOut };
  '/api/v1/workspaces/{w}/rules/{id}/state': { POST: StateChanged & { readonly rule: RuleView } };
  '/api/v1/workspaces/{w}/rules/{id}/strength': { GET: StrengthView };
  '/api/v1/workspaces/{w}/rules/{id}/versions': { GET: { readonly versions: readonly RuleVersionView[] } };
  '/api/v1/workspaces/{w}/runs': { GET: RunList };
  '/api/v1/workspaces/{w}/runs/{run}': { GET: RunView };
  '/api/v1/workspaces/{w}/runs/{run}/groups': { GET: RunGroups };
  '/api/v1/workspaces/{w}/runs/{run}/groups/changes': { GET: GroupPage };
  '/api/v1/workspaces/{w}/runs/{run}/left': { GET: RunLeft };
  '/api/v1/workspaces/{w}/runs/{run}/undo': { GET: UndoView; POST: UndoView };
  '/api/v1/workspaces/{w}/sample-families': {
    GET: { readonly families: readonly SampleFamilyView[] };
    POST: { readonly families: readonly SampleFamilyView[] };
  };
  '/api/v1/workspaces/{w}/sample-families/{id}': { GET: FamilyData; DELETE: Nothing };
  '/api/v1/workspaces/{w}/sample-families/{id}/differences': { GET: FamilyDrift };
  '/api/v1/workspaces/{w}/search': { GET: { readonly records: readonly FoundRecord[] } };
  '/api/v1/workspaces/{w}/services': {
    GET: { readonly services: readonly ServiceView[] };
    POST: ServiceView;
  };
  '/api/v1/workspaces/{w}/services/{id}/tokens': { POST: { readonly token: string } };
  '/api/v1/workspaces/{w}/services/{id}/tokens/{handle}': { DELETE: Nothing };
  '/api/v1/workspaces/{w}/settled-day': { POST: Settled };
  '/api/v1/workspaces/{w}/uses': { GET: { readonly uses: readonly Use[] } };
  '/api/v1/workspaces/{w}/types': { GET: ModelView };
}

/** A route without its answers, or answers without their route, don't compile. */
type Routes = typeof ACCESS;
type Missing = {
  [P in keyof Routes | keyof RouteAnswers]: P extends keyof Routes & keyof RouteAnswers
    ? Exclude<keyof Routes[P], keyof RouteAnswers[P]> | Exclude<keyof RouteAnswers[P], keyof Routes[P]>
    : P;
}[keyof Routes | keyof RouteAnswers];
const isWhole: [Missing] extends [never] ? true : Missing = true;
void isWhole;

export type AnswerOf<P extends keyof RouteAnswers, M extends Method> = M extends keyof RouteAnswers[P]
  ? RouteAnswers[P][M]
  : never;
