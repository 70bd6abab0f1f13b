export { asNumber, kindWords } from './typing/amounts';
export { describe, describeField, reasonsAgainst, type NameOf, type Reason } from './describe';
export { evaluate, evaluatorOf } from './evaluate/evaluate';
export {
  MOST_TEXT,
  RECORD_ITSELF,
  YES_NO,
  type CompareOperator,
  type Expression,
  type GroupOperator,
  type RunReading,
  type SelectionOperator,
  type Typed,
  type TypedExchange,
  type TypedField,
  type TypedGather,
} from '@/core/syntax/expression';
export {
  operatorEntry,
  OPERATORS,
  operatorsFor,
  operatorWords,
  type Operator,
  type OperatorEntry,
  type RightSide,
} from './operators';
export { asTests } from './buildable';
export { inOrder } from './evaluate/in-order';
export { countingFor } from './evaluate/leading';
export { inRun, readsRun, type RunContext } from './evaluate/run-context';
export { OF_RUN } from './of-run';
export { partsOf } from './parts';
export { typedPrefixed } from './prefixed';
export { printFeel } from './feel/print-feel';
export { exchangesIn, fieldsRead, gathersIn, isDated, testsIn } from './reads';
export { firstRateDay, pairOf, RATE_DAYS } from './evaluate/exchange';
export { selectionsIn } from './selections-in';
export {
  FUNCTIONS,
  functionEntry,
  isFunction,
  LIST_FUNCTIONS,
  BLANKS,
  MOST_WORKING_DAYS,
  WEEKDAYS,
  type FunctionName,
  type ListFunction,
  type Parameter,
} from '@/core/syntax/functions';
export { listNames, type ListName } from './names';
export type { Span } from './feel/feel-text';
export { readFeel, type ReadFeel } from './feel/read-feel';
export { checkSectionConditions, checkSelections } from './typing/check-conditions';
export { typeCondition, typeFieldRead, typeValue } from './typing/type-expression';
export {
  Failure,
  OUTSIDE,
  type Beneath,
  type Evaluator,
  type Outside,
  type RateWanted,
  type ReadField,
  type ReadOf,
  type Worked,
} from './evaluate/worked';
