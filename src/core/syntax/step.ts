/** A link field, by the type that has it (the child) and its key. */
export interface LinkRef {
  readonly type: string;
  readonly link: string;
}

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

/** A step as a key, for finding the same route again. */
export const stepKey = (step: Step): string =>
  step.direction === 'up' ? `^${step.link}` : `${step.type}.${step.link}`;
export const routeKey = (route: readonly Step[]): string => route.map(stepKey).join(' ');
