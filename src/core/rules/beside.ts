import { type Typed, typedPrefixed, YES_NO } from '@/core/expression';
import type { Model } from '@/core/model';
import { type Problem, sameData } from '@/core/values';
import { both } from './shared/both';
import type { Pilot } from './shared/base';
import { reachOf, upFrom } from './cascade/cascade-route';
import { partsOf } from './parts-of';
import { pilotScope, readsOf, unfit, withReads } from './pilot';
import { asksWhich } from './link/link-rule';
import { type AnyCompiled, type CompiledRule, isCreate, isReacting, isReactingCascade } from './rule';

export type CompiledBeside =
  | { readonly ok: true; readonly rules: readonly AnyCompiled[] }
  | { readonly ok: false; readonly problems: readonly Problem[] };

/** Two versions of one rule: the one that is tried on the records of a pilot, and the one that stays live for all others. */
interface Versions {
  readonly tried: AnyCompiled;
  readonly live: AnyCompiled;
  readonly pilot: Pilot;
}

/**
 * A version of a rule that is tried beside the one that is live: each runs for its own records and leaves those of the other alone. Refuses what
 * can't be told apart by records: other fields or another way than the live version's, several that cascade to one record, and rules that make records.
 */
export function besideEachOther(model: Model, versions: Versions): CompiledBeside {
  const { tried, live, pilot } = versions;
  const why = whyNotBeside(model, versions);
  if (why) return unfit('pilot.beside', `${why} Take the change live for all, or pause the rule first.`);
  const scope = pilotScope(model, tried, pilot);
  if (!scope.ok) return scope;
  const stays = pilotScope(model, live, pilot);
  if (!stays.ok) return stays;
  const { within } = scope;
  return {
    ok: true,
    rules: [
      ...halvesOf(model, tried, { pilot, within, isOutside: false }),
      ...halvesOf(model, live, { pilot, within, isOutside: true }),
    ],
  };
}

function whyNotBeside(model: Model, { tried, live, pilot }: Versions): string | null {
  if (isCreate(tried) || isCreate(live))
    return 'A rule that makes records can’t be tried beside its live version: what it made is found again by the rule, whichever version made it.';
  if (!sameData(fieldsOf(tried), fieldsOf(live)))
    return 'The change writes other fields than the live version, so the two can’t run beside each other.';
  if (waysOf(tried) !== waysOf(live))
    return 'The change acts in another way than the live version (kept, or at another moment), so the two can’t run beside each other.';
  if (!sameData(tried.pace, live.pace))
    return 'The change is brought up to date at another pace than the live version, so the two can’t run beside each other.';
  if ('route' in tried.definition && 'route' in live.definition) {
    if (!sameData(tried.definition.route, live.definition.route))
      return 'The change cascades to other records than the live version, so the two can’t run beside each other.';
    if ([tried, live].some((rule) => mayTakeFromSeveral(model, rule)))
      return 'Several may cascade to one record here, so it can’t be told by which version it is given its value.';
  }
  if ([tried, live].some((rule) => rule.kind === 'linked' && asksWhich(rule)))
    return 'A rule that asks people which of several a link should name can’t be tried beside its live version.';
  if ((isReacting(tried) || isReactingCascade(tried)) && pilot.kind !== 'records')
    return 'A rule that reacts is tried beside its live version for chosen records: those of a selection change, and it remembers what it acted on.';
  return null;
}

/** Whether several records may cascade to one: then some may be of the pilot and others not, and the rule's order couldn't tell them apart. */
function mayTakeFromSeveral(model: Model, rule: CompiledRule): boolean {
  if (rule.kind === 'keptCascade') return rule.several !== null;
  if (!isReactingCascade(rule)) return false;
  const reach = reachOf(model, rule.source, rule.definition.route);
  return rule.isAllTheWay === true || (reach !== 'beneath' && reach !== 'itself');
}

const fieldsOf = (rule: CompiledRule): string[] =>
  partsOf(rule)
    .map(({ writes }) => writes.field)
    .sort();

const waysOf = (rule: CompiledRule): string =>
  `${rule.kind} ${isReacting(rule)} ${isReactingCascade(rule) ? rule.moment.kind : ''}`;

interface Split {
  readonly pilot: Pilot;
  readonly within: Typed;
  readonly isOutside: boolean;
}

/** One version, part by part, for its own records. */
function halvesOf(model: Model, rule: AnyCompiled, { pilot, within, isOutside }: Split): AnyCompiled[] {
  if (isCreate(rule)) return [];
  const mine = isOutside ? {} : { pilot };
  if (isReactingCascade(rule)) {
    const own = isOutside ? notSo(within) : within;
    const part = (one: typeof rule): typeof rule => ({
      ...{ ...one, ...mine, half: { pilot, within, isOutside } },
      given: both(one.given, own),
      reads: [...one.reads, ...readsOf(model, one.source, within).map((read) => ({ ...read, path: [] }))],
    });
    return [{ ...part(rule), parts: rule.parts.map(part) }];
  }
  const there =
    rule.kind === 'keptCascade'
      ? typedPrefixed(within, rule.writes.type, upFrom(rule.definition.route))
      : within;
  const part = <R extends CompiledRule>(one: R): R => ({
    ...{ ...one, ...mine, half: { pilot, within: there, isOutside } },
    reads: withReads(one, readsOf(model, one.writes.type, there)),
  });
  if (rule.kind === 'rollUp') return [{ ...part(rule), together: rule.together.map(part) }];
  return rule.kind === 'keptCascade' ? [{ ...part(rule), parts: rule.parts.map(part) }] : [part(rule)];
}

/** Records that aren't of the pilot: it is of chosen ones, so that it can always be told. */
const notSo = (within: Typed): Typed =>
  within.kind === 'among'
    ? { ...within, operator: 'isNotAmong' }
    : { kind: 'group', type: YES_NO, operator: 'none', of: [within] };
