export { circleThrough, components, type Graph } from './graph';
export {
  buildPlan,
  planAlone,
  datedIn,
  downstream,
  feedsOf,
  type Feeding,
  makersOther,
  meaningOther,
  type Plan,
  type PlanResult,
  type RuleProblem,
} from './plan';
