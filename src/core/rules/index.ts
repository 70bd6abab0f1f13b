export { alike, compileRollUp, type Compiled, type RollUpPart } from './check-roll-up';
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
  outcomeFrom,
  ownStanding,
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
  conditionsKey,
  plainLink,
  type Aggregate,
  type CompiledRollUp,
  type CompiledSource,
  type FieldRead,
  type OwnValues,
  type Recursion,
  type RollUp,
  type RollUpSource,
} from './roll-up';
export type { FieldRef, Read, Rule, RuleDefinition, RuleState } from './rule';
export {
  childrenName,
  proposedName,
  roundingWords,
  sentenceOf,
  sentenceParts,
  sourceName,
  stepNames,
  type SentencePart,
} from './sentence';
export {
  isValueOffered,
  membersOffered,
  resultOffered,
  routesOffered,
  targetsOffered,
  type RouteOffer,
} from './offers';
