export { numberedIds } from './numbered-ids';
export { BY_ONE } from './case-search';
export { createView, type CreateView } from './create-view';
export { cascadeView, type CascadeView, type StagedView, type TakerView } from './cascade-view';
export type { Tree, TreeRow } from './tree';
export { piecesOf, pieceWords, type FormulaView, type PieceView } from './formula-view';
export {
  explain,
  explainFormula,
  explainPage,
  type Explanation,
  type MapView,
  type MemberView,
  type OwnView,
  type SourceRows,
  type SourceView,
  type OutcomeView,
} from './explain';
export {
  allBeneath,
  familyAfter,
  familyByHand,
  familyDrift,
  familyStore,
  fittedFamily,
  recordFromWire,
  recordToWire,
  type FamilyData,
  type FamilyDrift,
  type WireRecord,
} from './family';
export {
  planWithDrafts,
  withDrafts,
  rehearsalView,
  rehearse,
  rehearsing,
  type Rehearsal,
  type RehearsalInput,
} from './rehearse';
export { rehearseSaves, turnOfDay, type SaveRehearsed, type SavesRehearsed } from './rehearse-saves';
export { daysOf, settledDayOf, standpointsOf, type RunSetting, type Standpoint } from './standpoints';
export {
  namesIn,
  problemWords,
  rippleView,
  valueView,
  type CellView,
  type ChangeView,
  type WriterView,
  type ProposedView,
  type RippleView,
  type ValueView,
  type ViewContext,
} from './views';
export { modelEffects, type MetRule, type ModelEffects, type RuleEffect } from './model-effects';
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
  FollowerView,
  FoundRecord,
  History,
  HistoryEntry,
  ImportEffect,
  ImportSamples,
  ImportView,
  Progress,
  SearchProgress,
  RecordDifference,
  LeftByUndo,
  KeeperView,
  QueuedSaveView,
  LaterView,
  RuleName,
  LiveEffect,
  LivePreview,
  ModelRehearsal,
  ModelView,
  PersonView,
  AcceptanceSheet,
  AgreementView,
  ProofHead,
  ProofRun,
  ProofStanding,
  RuleProofs,
  MissedProof,
  RequestView,
  RuleVersionView,
  SheetRule,
  Spread,
  InstallationEventView,
  NoticeView,
  WorkspaceView,
  RecordList,
  RecordView,
  RefusedRowView,
  RuleView,
  RunHead,
  SampleFamilyView,
  SavedListDefinition,
  SavedListView,
  SelectionEffect,
  RunList,
  RunCount,
  RunView,
  SavedRun,
  StepView,
  UndoneField,
  UndoneRecords,
  UndoView,
} from './answers';
export {
  PlannedRules,
  proofThrough,
  readyProof,
  runProof,
  type Expectation,
  type Missed,
  type Proof,
  type ProofResult,
} from './proof';
export {
  caseSort,
  expectedWords,
  tellProof,
  type CaseSort,
  type ToldCell,
  type ToldProof,
} from './told-proof';
export {
  requestStanding,
  type RequestedRule,
  type RequestPoint,
  type RequestStanding,
  type Wanting,
} from './requests';
export { expectationsOf, resultWords, type ProposedExpectation } from './expect';
export { variantsOf, type Variant } from './variants';
export { EDGE_WORDS } from './edge';
export { heldAmong, type ProofsAmong, type ToldAmong, toldAmong } from './proofs-among';
export { workedOut } from './run-through';
export { findingsAmong, fixOf, reviewOf, type Fix, type ReviewFinding, type Rewritten } from './review';
export {
  closedFields,
  type FieldMeasure,
  type ImportMeasure,
  measuredFindings,
  testedFields,
  withoutTestsOf,
} from './measured';
export { isSameAnyway } from './same-anyway';
export { madeUpFamily } from './made-up';
export {
  shareOf,
  strengthOf,
  type Strength,
  type StrengthInput,
  type StrengthProgress,
  type ProposedCase,
  caseName,
} from './strength';
export {
  expectedByFormula,
  expectedDifferences,
  readExpected,
  type ExpectedDifference,
  type ExpectedLine,
  type ExpectedValue,
  type ReadExpected,
} from './expected-values';
export { compareStandings, type StandingDifference, type StandingsCompared } from './compare-standing';
export { readConditions, type ConditionRead, type TestRead, type Verdict } from './reading';
export { wordsOfValue } from './changed-expression';
