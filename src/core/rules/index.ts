export { compileRollUp, type Compiled, type RollUpPart } from './check-roll-up';
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
  standingOf,
  type BroughtTogether,
  type Reader,
  type Standing,
} from './evaluate-roll-up';
export { foldedOutcome } from './fold';
export {
  aggregateEntry,
  AGGREGATES,
  type Aggregate,
  type CompiledRollUp,
  type RollUp,
  type StepDown,
} from './roll-up';
export type { FieldRef, Read, Rule, RuleDefinition, RuleState } from './rule';
export {
  childrenName,
  proposedName,
  roundingWords,
  sentenceOf,
  sentenceParts,
  type SentencePart,
} from './sentence';
export { resultOffered, routesOffered, targetsOffered, valuesOffered } from './offers';
