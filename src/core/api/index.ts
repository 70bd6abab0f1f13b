/** What the JSON API answers: read by the interface and by outside clients. */
export type {
  InstallationEventView,
  NoticeView,
  PersonView,
  WorkspaceView,
  LetIn,
  GroupView,
  MemberView,
  OwnRole,
  PeopleAnswer,
  WorkspaceGroup,
} from './workspace';
export type { KeeperView, ModelRehearsal, ModelView, SelectionEffect } from './model';
export type {
  LaterView,
  LiveEffect,
  JointPreview,
  LivePreview,
  ProofHead,
  ProofRunView,
  RuleProofs,
  RuleVersionView,
  RuleView,
  SampleFamilyView,
  Spread,
  UnfinishedContent,
  UnfinishedRule,
} from './rules';
export type { AcceptanceSheet, AgreementView, RequestView, SheetRule } from './requests';
export type {
  DependantView,
  FoundRecord,
  History,
  HistoryEntry,
  QueuedSaveView,
  RecordDifference,
  RecordList,
  RecordView,
  SavedListView,
  SavedRun,
} from './records';
export type {
  LeftByUndo,
  RunCount,
  RunHead,
  RunList,
  GroupPage,
  RunGroups,
  RunLeft,
  RunView,
  StepView,
  UndoView,
  UndoneField,
  UndoneRecords,
} from './ledger';
export type { ImportEffect, ImportSamples, ImportView, RefusedRowView } from './imports';
export type { Progress, SearchProgress } from './progress';
export type {
  FilledView,
  MadeByView,
  MakerView,
  MessageView,
  ProposalDecided,
  ProposalList,
  ProposalView,
} from './proposals';
export type {
  OwnSession,
  SecurityEventView,
  SecurityKind,
  SessionAnswer,
  SessionPerson,
  Welcome,
  NewToken,
  PasskeyView,
  PersonalData,
  SecondFactorView,
  ServiceView,
  TokenView,
} from './sessions';
export {
  isRole,
  RIGHTS,
  ROLES,
  rolesWith,
  SHOWS_ALL,
  type Right,
  type Role,
  type RoleView,
  whyMayNot,
} from './rights';
export { APPROVED, type ApprovalKind, type ApprovalView, type TwoPeopleKind } from './approvals';
export { safePath } from './safe-path';
