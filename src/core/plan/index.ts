export { circleThrough, components, type Graph } from './graph';
export {
  buildPlan,
  datedIn,
  downstream,
  meaningOther,
  type Plan,
  type PlanResult,
  type RuleProblem,
} from './plan';
