import { firstIn } from '@/core/values';
import { arrive, type Model, routeKey, type Step, type StepDown } from '@/core/model';
import { ReadPaths } from '@/core/rules/shared/read-paths';
import type { CompiledRollUp } from './roll-up';
import type { Recursion, Read } from '@/core/rules/shared/base';

interface Split {
  readonly down: readonly StepDown[];
  /** Links from the lowest records up to the far end of a bridge; empty where the route ends with them. */
  readonly up: readonly string[];
  readonly type: string;
}

/** A route as the steps down to its lowest records, and the links up from there; `null` where it isn't made so. */
export function splitRoute(model: Model, from: string, route: readonly Step[]): Split | null {
  const turn = route.findIndex(({ direction }) => direction === 'up');
  const down = turn < 0 ? route : route.slice(0, turn);
  const up = turn < 0 ? [] : route.slice(turn);
  if (down.length === 0 || up.some(({ direction }) => direction === 'down')) return null;
  const type = arrive(model, from, down);
  return type === undefined ? null : { down: down as StepDown[], up: up.map(({ link }) => link), type };
}

/**
 * All that a rule reads: the link of each step down, the fields of values, conditions and of the record itself, and every link of the
 * routes up to them.
 */
export function readsOf(
  model: Model,
  rule: Pick<CompiledRollUp, 'writes' | 'sources' | 'own' | 'appliesWhen'>,
): Read[] {
  const reads = new ReadPaths(model, rule.writes.type);
  for (const { route, value, condition, once, order } of rule.sources) {
    reads.addDown(route);
    for (const part of [value, once, condition, ...order]) if (part) reads.addFields(route, part);
  }
  for (const field of Object.values(rule.own)) if (field) reads.addFields([], field);
  if (rule.appliesWhen) reads.addFields([], rule.appliesWhen);
  // What a rule that reacts finds in its own target is what it may change: it doesn't follow from it.
  const { type, field } = rule.writes;
  const isOwn = (read: Read) => read.path.length === 0 && read.type === type && read.field === field;
  return rule.appliesWhen ? reads.all().filter((read) => !isOwn(read)) : reads.all();
}

/** How a rule reads its own target further down; `null` where it doesn't, or in a way that runs in a circle. */
export function recursionOf(
  { writes, sources }: Pick<CompiledRollUp, 'writes' | 'sources'>,
  reads: readonly Read[],
): Recursion | null {
  const found = new Map<string, Recursion>();
  for (const { type, field, path } of reads) {
    if (type !== writes.type || field !== writes.field) continue;
    const [down, up] = path;
    if (down?.direction !== 'down' || path.length > 2 || (up && up.direction !== 'up')) return null;
    if (up ? up.link === down.link : down.type !== writes.type) return null;
    const link = { type: down.type, link: down.link };
    found.set(routeKey(path), { down: link, up: up ? up.link : null });
  }
  const isWanted = sources.some(({ isRecursive }) => isRecursive);
  return isWanted && found.size === 1 ? firstIn([...found.values()]) : null;
}
