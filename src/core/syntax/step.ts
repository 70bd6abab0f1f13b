/** A link field, by the type that has it (the child) and its key. */
export interface LinkRef {
  readonly type: string;
  readonly link: string;
}

/** To the records of `type` whose `link` names the record at hand. */
export interface StepDown extends LinkRef {
  readonly direction: 'down';
  /** Over a link of a type to itself: to all that lies beneath over it, at any depth. Only a roll-up's route begins so. */
  readonly isAllTheWay?: true;
}

/** To the record that `link` names. */
export interface StepUp {
  readonly direction: 'up';
  readonly link: string;
}

/** One step of a route from record to record. */
export type Step = StepDown | StepUp;

export const stepDown = ({ type, link }: LinkRef): StepDown => ({ direction: 'down', type, link });
/** Whether a step goes down all the way. */
export const isAllTheWay = (step: Step | undefined): step is StepDown & { readonly isAllTheWay: true } =>
  step?.direction === 'down' && step.isAllTheWay === true;

export const stepsUp = (route: readonly string[]): StepUp[] =>
  route.map((link) => ({ direction: 'up', link }));

/** A step as a key, for finding the same route again. */
export const stepKey = (step: Step): string =>
  step.direction === 'up' ? `^${step.link}` : `${step.type}.${step.link}${step.isAllTheWay ? '*' : ''}`;
export const routeKey = (route: readonly Step[]): string => route.map(stepKey).join(' ');
