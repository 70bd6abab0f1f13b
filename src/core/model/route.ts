import { follow, type Model } from './model';
import type { Step } from '@/core/syntax/step';

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

/** As `arrive`, along steps that exist; see `typeIn`. */
export function typeAlong(model: Model, from: string, route: readonly Step[]): string {
  const found = arrive(model, from, route);
  if (found === undefined)
    throw new ReferenceError(`No steps ${route.map(({ link }) => link).join(', ')} lead on from “${from}”`);
  return found;
}
