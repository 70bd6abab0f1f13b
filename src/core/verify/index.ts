export { numberedIds } from './family/numbered-ids';
export { BY_ONE } from './strength/case-search';
export { createView, type CreateView } from './explain/create-view';
export {
  cascadeView,
  rowsAlong,
  type CascadeView,
  type StagedView,
  type RecipientView,
} from './explain/cascade-view';
export type { Tree, TreeRow } from './explain/tree';
export type { SeveralView } from './explain/sources-view';
export { piecesOf, pieceWords, type FormulaView, type PieceView } from './explain/formula-view';
export { explain, explainFormula, explainPage } from './explain/explain';
export type {
  Explanation,
  MapView,
  MemberView,
  OwnView,
  SourceRows,
  SourceView,
  OutcomeView,
} from './explain/explanation';
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
} from './family/family';
export {
  planWithDrafts,
  withDrafts,
  rehearsalView,
  rehearse,
  rehearsing,
  type Rehearsal,
  type RehearsalInput,
} from './rehearsal/rehearse';
export { PlannedRules } from './rehearsal/planned-rules';
export {
  SaveSession,
  advanceDayIn,
  type SaveRehearsed,
  type SavesRehearsed,
} from './rehearsal/rehearse-saves';
export {
  daysOf,
  settledDayOf,
  runScheduleOf,
  type RunSetting,
  type Standpoint,
} from './rehearsal/run-schedule';
export { isCascade, leftAsIs, sourcesOf } from './explain/left-as-is';
export { type LeftContext, MOST_TOUCHED, touchedIn } from './explain/left-kept';
export {
  groupedChanges,
  groupKeyText,
  LEAST_ALIKE,
  MOST_TOLD,
  type Becoming,
  type GroupKey,
  type GroupSample,
  type RippleGroup,
} from './explain/ripple-groups';
export {
  differenceOf,
  namesIn,
  problemWords,
  rippleView,
  valueView,
  type CellView,
  type ChangeView,
  type LeftView,
  type WriterView,
  type ProposedView,
  type RippleView,
  type ValueView,
  type ViewContext,
  type RuleName,
} from './explain/views';
export { modelEffects, type MetRule, type ModelEffects, type ModelEffect } from './review/model-effects';
export {
  type ProofStanding,
  type MissedProof,
  heldAmong,
  type ProofsAmong,
  type ToldAmong,
  toldAmong,
} from './proof/proofs-among';
export {
  proofThrough,
  readyProof,
  runProof,
  type Expectation,
  type Missed,
  type Proof,
  type ProofResult,
} from './proof/proof';
export {
  caseSort,
  expectedWords,
  describeProof,
  type CaseSort,
  type DescribedCell,
  type ProofDescription,
} from './proof/describe-proof';
export {
  requestStanding,
  type RequestedRule,
  type RequestPoint,
  type RequestStanding,
  type Wanting,
} from './proof/requests';
export { proposeExpectations, resultWords, type ProposedExpectation } from './proof/propose-expectations';
export { variantsOf, type Variant } from './strength/variants';
export { EDGE_WORDS } from './strength/edge';
export { workedOut } from './rehearsal/run-through';
export { findingsAmong, fixesOf, reviewOf } from './review/review';
export type { Fix, ReviewFinding, Rewritten } from './review/finding';
export {
  closedFields,
  type FieldMeasure,
  type ImportMeasure,
  measuredFindings,
  testedFields,
  withoutTestsOf,
} from './review/measured-findings';
export { isProvablyEquivalent } from './strength/equivalent-variant';
export { madeUpFamily } from './strength/made-up-family';
export {
  shareOf,
  strengthOf,
  type Strength,
  type StrengthInput,
  type StrengthProgress,
  type ProposedCase,
  caseName,
} from './strength/strength';
export {
  expectedByFormula,
  expectedDifferences,
  readExpected,
  type ExpectedDifference,
  type ExpectedLine,
  type ExpectedValue,
  type ReadExpected,
} from './proof/expected-values';
export { compareOutcomes, type OutcomeDifference, type OutcomesCompared } from './rehearsal/compare-outcomes';
export {
  ruleOn,
  traceConditions,
  type ConditionRead,
  type TestRead,
  type Verdict,
} from './explain/trace-condition';
export { wordsOfValue } from './family/value-words';
export { type Named, type Use, type UsedBy, usesOf } from './review/uses';
export { dictionaryOf, type Dictionary, type DictionaryRule } from './review/dictionary';
