export { findWords, holdsWords, wayWordsOf } from './link-words';
export { linkedOutcome, matchesOf, type Finder } from './find-link';
export { asksWhich } from './link-rule';
export type { CompiledFinding, CompiledLinked, Finding, LinkRule, MatchKey } from './link-rule';
export type { LinkPart } from './check-link-rule';
export { forOtherParents, type OtherParent } from './other-parents';
export { isKeptByLeader, leaderAfter } from './leading';
export type { Limits } from '../values';
export { checkRuleDefaults, defaultsFor } from './rule-defaults';
export { oneLink, plainLink } from './one-link';
export { checkTimes, isAskedBy, isSlower, paceWords, WEEKDAYS } from './pace';
export { isWritable, type FormulaPart } from './check-formula';
export { alike, compileRollUp, type RollUpPart } from './check-roll-up';
export type {
  AssignedValue,
  Assignment,
  Cascade,
  ChangeTest,
  CompiledHandOn,
  CompiledInStep,
  CompiledTest,
  HandedValue,
  Moment,
  OnChange,
} from './cascade';
export { assignedWords, changeName, momentWords, takersWords } from './cascade-words';
export { assignsOther, isAtOnce, waysOf } from './create';
export type { Afterwards, CompiledAssigned, CompiledCreate, CompiledWay, Create, Way, WayBy } from './create';
export { assignedReads, isHeld, isOfRun, wayOf, type CreatePart } from './check-create';
export { afterwardsWords, wayName, wayWords } from './create-words';
export type { CascadePart } from './check-cascade';
export { handedOutcome } from './hand-on-value';
export { handOnOffered, reachOf, type Reach, upFrom } from './hand-on-route';
export { compileRule, partsOf, type Compiled } from './compile';
export { formulaOutcome } from './evaluate-formula';
export type { CompiledFormula, Formula } from './formula';
export {
  accumulatorOfUnits,
  isAccumulated,
  isKeptByDifference,
  keptOutcomeOf,
  NOTHING,
  outcomeOf,
  sameAccumulator,
  unitsOf,
  withStanding,
  type Accumulator,
} from './accumulate';
export {
  bringTogether,
  leaderOf,
  leadingSide,
  outcomeFrom,
  standingAlone,
  standingOf,
  type BroughtTogether,
  type Kept,
  type Members,
  type Reader,
  type Standing,
} from './evaluate-roll-up';
export { foldedOutcome } from './fold';
export {
  aggregateEntry,
  AGGREGATES,
  ORDERING,
  givingResult,
  isReacting,
  meaningKey,
  valueOfNone,
  type Aggregate,
  type CompiledRollUp,
  type CompiledSource,
  type FieldRead,
  type Joining,
  type OwnValues,
  type Recursion,
  type RollUp,
  type RollUpSource,
  type Together,
} from './roll-up';
export {
  isAlone,
  isClaiming,
  isCreate,
  isHandOn,
  reacts,
  readsField,
  targetsOf,
  type AnyCompiled,
  type CompiledAlone,
  type CompiledRule,
  type FieldRef,
  type FoundAmong,
  type RatesRead,
  type Read,
  type Rule,
  type RuleDefinition,
  type Pilot,
  type RuleState,
} from './rule';
export {
  askedWords,
  limitsWords,
  mapWords,
  proposedName,
  roundingWords,
  sentenceOf,
  sentenceParts,
  sourceName,
  testWords,
  joiningWords,
} from './sentence';
export { childrenName, routeWords, type SentencePart } from './sentence-parts';
export {
  isValueOffered,
  membersOffered,
  resultOffered,
  routesOffered,
  targetsOffered,
  targetsOpen,
  type RouteOffer,
} from './offers';
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
} from './written';
export { areRivals, LAST_PRECEDENCE, precedenceOf, precedenceWords } from './precedence';
export { MOST_IN_PILOT, pilotWords } from './pilot';
