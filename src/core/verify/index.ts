export { explain, explainPage, type Explanation, type MemberView, type OutcomeView } from './explain';
export { familyStore, recordFromWire, recordToWire, type FamilyData, type WireRecord } from './family';
export {
  planWithDrafts,
  rehearsalView,
  rehearse,
  rehearsing,
  type Rehearsal,
  type RehearsalInput,
} from './rehearse';
export {
  namesIn,
  problemWords,
  rippleView,
  valueView,
  type CellView,
  type ChangeView,
  type RippleView,
  type ValueView,
  type ViewContext,
} from './views';
export { modelEffects, type MetRule, type ModelEffects, type RuleEffect } from './model-effects';
export type {
  FollowerView,
  FoundRecord,
  History,
  HistoryEntry,
  ImportEffect,
  ImportSamples,
  ImportView,
  LargeUndoView,
  KeeperView,
  LiveEffect,
  LivePreview,
  ModelRehearsal,
  ModelView,
  PersonView,
  WorkspaceView,
  RecordList,
  RecordView,
  RefusedRowView,
  RuleView,
  RunHead,
  RunList,
  RunView,
  SavedRun,
  StepView,
  UndoView,
} from './answers';
