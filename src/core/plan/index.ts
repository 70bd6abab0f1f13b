export { circleThrough, components, type Graph } from './graph';
export { buildPlan, downstream, partKey, type Plan, type PlanResult, type RuleProblem } from './plan';
