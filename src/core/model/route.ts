import { follow, type LinkRef, type Model } from './model';

/** To the records of `type` whose `link` names the record at hand. */
export interface StepDown extends LinkRef {
  readonly direction: 'down';
}

/** To the record that `link` names. */
export interface StepUp {
  readonly direction: 'up';
  readonly link: string;
}

/** One step of a route from record to record. */
export type Step = StepDown | StepUp;

export const stepDown = ({ type, link }: LinkRef): StepDown => ({ direction: 'down', type, link });
export const stepsUp = (route: readonly string[]): StepUp[] =>
  route.map((link) => ({ direction: 'up', link }));

/** The type of the records that a route leads to, or undefined where a step isn't a link that fits. */
export function arrive(model: Model, from: string, route: readonly Step[]): string | undefined {
  let at: string | undefined = from;
  for (const step of route) {
    if (at === undefined) return undefined;
    if (step.direction === 'up') at = follow(model, at, [step.link]);
    else at = follow(model, step.type, [step.link]) === at ? step.type : undefined;
  }
  return at;
}

/** A step as a key, for finding the same route again. */
export const stepKey = (step: Step): string =>
  step.direction === 'up' ? `^${step.link}` : `${step.type}.${step.link}`;

export const routeKey = (route: readonly Step[]): string => route.map(stepKey).join(' ');
