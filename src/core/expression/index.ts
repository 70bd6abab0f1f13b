export { describe, describeField, reasonsAgainst, type NameOf, type Reason } from './describe';
export {
  evaluate,
  evaluatorOf,
  OUTSIDE,
  type Evaluator,
  type Outside,
  type ReadField,
  type ReadOf,
} from './evaluate';
export type {
  CompareOperator,
  Expression,
  GroupOperator,
  SelectionOperator,
  Typed,
  TypedField,
} from './expression';
export {
  operatorEntry,
  OPERATORS,
  operatorsFor,
  operatorWords,
  type Operator,
  type OperatorEntry,
  type RightSide,
} from './operators';
export { fieldsRead } from './reads';
export { selectionsIn } from './selections-in';
export { checkSectionConditions, checkSelections, typeCondition, typeFieldRead } from './type-expression';
