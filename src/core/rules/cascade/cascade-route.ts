import { firstIn, itemAt } from '@/core/values';
import { arrive, type Model, type Step, typeIn } from '@/core/model';

/** A way of cascading, by what lies at its end. */
export type Reach = 'itself' | 'beneath' | 'siblings' | 'above' | 'across';

/**
 * What a route reaches: steps down lead beneath, steps up to what the record hangs under, up and down the same link to its siblings, down
 * and up again across a bridge. `null` where a step isn't a link that fits, or the route is made otherwise.
 */
export function reachOf(model: Model, from: string, route: readonly Step[]): Reach | null {
  if (arrive(model, from, route) === undefined) return null;
  const directions = route.map(({ direction }) => direction).join(' ');
  if (route.length === 0) return 'itself';
  if (/^down( down)*$/.test(directions)) return 'beneath';
  if (/^up( up)*$/.test(directions)) return 'above';
  if (
    directions === 'up down' &&
    firstIn(route).link === itemAt(route, 1).link &&
    (route[1] as { type: string }).type === from
  )
    return 'siblings';
  return /^down( down)*( up)+$/.test(directions) ? 'across' : null;
}

/** The type of the records over which a route leads across; `null` of any other route. */
export function bridgeOn(model: Model, from: string, route: readonly Step[]): string | null {
  if (reachOf(model, from, route) !== 'across') return null;
  return arrive(model, from, route.slice(0, turnOf(route))) ?? null;
}

/** Where a route that leads across turns up again: so many steps lead down. */
export const turnOf = (route: readonly Step[]): number =>
  route.findIndex(({ direction }) => direction === 'up');

/** From a record beneath to the one that a route down to it starts at. */
export const upFrom = (route: readonly Step[]): string[] => route.map(({ link }) => link).reverse();

/** Ways of cascading that a type offers, the near ones first. */
export function cascadesOffered(model: Model, type: string): (readonly Step[])[] {
  const children = model
    .linksTo(type)
    .map(({ type: child, link }): Step => ({ direction: 'down', type: child, link }));
  const own = model.linksFrom(type);
  const grandchildren = children.flatMap((step) =>
    step.direction === 'down' && step.type !== type
      ? model
          .linksTo(step.type)
          .flatMap(({ type: child, link }): Step[][] => [[step, { direction: 'down', type: child, link }]])
      : [],
  );
  const across = children.flatMap((step) =>
    step.direction === 'down' && typeIn(model, step.type).bridge
      ? model
          .linksFrom(step.type)
          .filter(({ link }) => link !== step.link)
          .map(({ link }): Step[] => [step, { direction: 'up', link }])
      : [],
  );
  return [
    ...children.map((step) => [step]),
    ...across,
    ...grandchildren,
    ...own.map(({ link }): Step[] => [{ direction: 'up', link }]),
    ...own.map(({ link }): Step[] => [
      { direction: 'up', link },
      { direction: 'down', type, link },
    ]),
    [],
  ];
}
