export { circleThrough, components, type Graph } from './graph';
export { buildPlan, downstream, meaningOther, type Plan, type PlanResult, type RuleProblem } from './plan';
