export { circleThrough, components, type Graph } from './graph';
export {
  buildPlan,
  planAlone,
  datedIn,
  downstream,
  reactingTo,
  feedsOf,
  type Feeding,
  makersOther,
  changedRules,
} from './plan';
export { type Plan, type PlanResult, type RuleProblem } from './planned';
export { rulesById, touchedTypes } from './plan-graph';
