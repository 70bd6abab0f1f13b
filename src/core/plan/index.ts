export { circleThrough, components, type Graph } from './graph';
export {
  buildPlan,
  planAlone,
  rulesById,
  touchedTypes,
  datedIn,
  downstream,
  feedsOf,
  type Feeding,
  makersOther,
  changedRules,
  type Plan,
  type PlanResult,
  type RuleProblem,
} from './plan';
