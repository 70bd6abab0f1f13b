export { findWords, holdsWords, wayWordsOf } from './link/link-words';
export { linkedOutcome, matchesOf, type Finder } from './link/find-link';
export {
  asksWhich,
  type CompiledFinding,
  type CompiledLinked,
  type Finding,
  type LinkRule,
  type MatchKey,
} from './link/link-rule';
export { type LinkPart, namesAbove } from './link/check-link-rule';
export { forOtherParents, type OtherParent } from './roll-up/other-parents';
export { isKeptByExtremum, extremumAfter } from './roll-up/extremum';
export type { Limits } from '@/core/values';
export { checkRuleDefaults, defaultsFor } from './defaults';
export { singleLink, groupableLink } from './roll-up/single-link';
export { checkTimes, isAskedBy, isSlower, paceWords, WEEKDAYS } from './pace';
export { type FormulaPart } from './formula/check-formula';
export { isWritable } from './shared/is-writable';
export { compileRollUp, type RollUpPart } from './roll-up/check-roll-up';
export { alike } from './roll-up/check-source';
export type {
  AssignedValue,
  Assignment,
  Cascade,
  ChangeTest,
  ReactingCascade,
  FromSeveral,
  KeptCascade,
  CompiledTest,
  CompiledAssignedValue,
  Moment,
  OnChange,
} from './cascade/cascade';
export { standsInText } from './cascade/text-template';
export { assignedWords, changeName, momentWords, recipientsWords } from './cascade/cascade-words';
export {
  assignsOther,
  isAtOnce,
  executionModesOf,
  type Afterwards,
  type CompiledAssigned,
  type CompiledCreate,
  type CompiledExecutionMode,
  type Create,
  type ExecutionMode,
  type ExecutionModeBy,
} from './create/create';
export { type CreatePart } from './create/check-create';
export { assignedReads, isHeld, usesRunContext, executionModeOf } from './create/create-parts';
export { afterwardsWords, executionModeName, executionModeWords } from './create/create-words';
export type { CascadePart } from './cascade/check-cascade';
export { bridgeOn, turnOf } from './cascade/cascade-route';
export { assignedOutcome, type AssigningRun } from './cascade/assigned-value';
export { cascadesOffered, reachOf, type Reach, upFrom } from './cascade/cascade-route';
export { compileBeside, compileRule, type Compiled } from './compile';
export { type CompiledBeside } from './beside';
export { partsOf } from './parts-of';
export { isOfHalf, versionOn } from './shared/half';
export { formulaOutcome } from './formula/evaluate-formula';
export type { CompiledFormula, Formula } from './formula/formula';
export {
  accumulatorOfUnits,
  isAccumulated,
  isKeptByDifference,
  keptOutcomeOf,
  NOTHING,
  outcomeOf,
  sameAccumulator,
  unitsOf,
  withContribution,
  type Accumulator,
} from './roll-up/accumulate';
export { aggregate, outcomeFrom, contributionAlone, type Aggregated } from './roll-up/evaluate-roll-up';
export { extremumOf, extremumSide } from './roll-up/ordered-members';
export { contributionOf, type Kept, type Members, type Reader } from './roll-up/member-gives';
export { type Contribution } from './roll-up/contribution';
export { withOption } from './roll-up/per-option';
export { foldedOutcome } from './roll-up/fold';
export {
  aggregateEntry,
  AGGREGATES,
  isAggregate,
  ORDERING,
  givingResult,
  type Aggregate,
  type CompiledRollUp,
  type CompiledSource,
  type Joining,
  type OptionTarget,
  type OwnValues,
  type PerOption,
  type RollUp,
  type RollUpSource,
  type Together,
} from './roll-up/roll-up';
export {
  isReacting,
  semanticKey,
  valueOfNone,
  isAlone,
  isClaiming,
  isCreate,
  isReactingCascade,
  reacts,
  targetsOf,
  type AnyCompiled,
  type CompiledAlone,
  type CompiledRule,
  type Rule,
  type RuleDefinition,
} from './rule';
export { type FieldRead } from '@/core/syntax/expression';
export {
  type Half,
  type Recursion,
  readsField,
  type FieldRef,
  type FoundAmong,
  type RatesRead,
  type Read,
  type Pilot,
  type RuleState,
} from './shared/base';
export {
  askedWords,
  limitsWords,
  mapWords,
  roundingWords,
  sentenceOf,
  sentenceParts,
  sourceName,
  testWords,
  joiningWords,
  percentWords,
} from './sentence';
export { nameKey, proposedName } from './names';
export { childrenName, routeWords, type SentencePart } from './sentence-parts';
export {
  isValueOffered,
  membersOffered,
  resultOffered,
  routesOffered,
  type KeptBy,
  type OfferedField,
  targetsOffered,
  targetsWithWhy,
  whyClosed,
  unlikeWords,
  whyUnfit,
  targetsOpen,
  type RouteOffer,
} from './roll-up/offers';
export {
  comparisonsFor,
  compileMap,
  FAILED,
  isDue,
  limited,
  NONE,
  OTHERWISE,
  rowOf,
  writtenAt,
  writtenFrom,
  type CompiledLimits,
  type CompiledMap,
  type MapRow,
  type ResultMap,
} from './shared/result-pipeline';
export { competeForField, hasRivals, LAST_PRECEDENCE, precedenceOf, precedenceWords } from './precedence';
export { MOST_IN_PILOT, pilotWords } from './pilot';
export { type OnType, ruleOnType } from './on-type';
