import {
  gathersIn,
  RECORD_ITSELF,
  typeCondition,
  type Typed,
  typedPrefixed,
  YES_NO,
} from '@/core/expression';
import { type Model, stepsUp } from '@/core/model';
import { certain, type ProblemCode, type Problem, writeCount } from '@/core/values';
import type { ReactingCascade, KeptCascade } from './cascade/cascade';
import { finding } from './shared/check-target';
import { upFrom } from './cascade/cascade-route';
import { both } from './shared/both';
import { fromSome } from './cascade/kept-part';
import { ReadPaths } from './shared/read-paths';
import { type CompiledRollUp } from './roll-up/roll-up';
import { isReacting, type AnyCompiled, type CompiledRule } from './rule';
import type { Read, Pilot } from './shared/base';

/** Most records that are chosen for a pilot. */
export const MOST_IN_PILOT = 1_000;

interface Unfit {
  readonly ok: false;
  readonly problems: readonly Problem[];
}

type Narrowed = { readonly ok: true; readonly rule: AnyCompiled } | Unfit;

/** Typed on the type that the rule is on: whether a record is of the pilot. */
type Scope = { readonly ok: true; readonly within: Typed } | Unfit;

/** Why a rule can't be a pilot, or can't in this way. */
export const unfit = (code: ProblemCode, message: string): Unfit => ({
  ok: false,
  problems: [finding('pilot', code, message)],
});

/**
 * A rule as it runs in a pilot: only for chosen records of the type that it is on, or for those of a selection. Elsewhere it claims nothing:
 * what stands there stands, and people may enter it. Refuses what `pilotScope` does.
 */
export function inPilot(model: Model, rule: AnyCompiled, pilot: Pilot): Narrowed {
  const scope = pilotScope(model, rule, pilot);
  return scope.ok ? { ok: true, rule: narrowed(model, rule, pilot, scope.within) } : scope;
}

/**
 * Which records are of a pilot. Refuses rules that go all the way down a hierarchy, since they give a record what they gave those further on, and a
 * selection that isn't of the rule's type.
 */
export function pilotScope(model: Model, rule: AnyCompiled, pilot: Pilot): Scope {
  const { type } = rule.definition;
  if (rule.kind !== 'create' && (rule.recursion || (rule.kind === 'keptCascade' && rule.handsDown)))
    return unfit(
      'pilot.allTheWay',
      'A rule that goes all the way down a hierarchy can’t run for a part of it: each record needs what those further on are given. Try it on the bench, then take it live.',
    );
  if (rule.kind === 'linked' && rule.target.type.kind === 'link' && rule.target.type.target === type)
    return unfit(
      'pilot.allTheWay',
      'A rule that links records of a type with one another can’t run for some of them: with what people enter on the others a loop could be made. Try it on the bench, then take it live.',
    );
  const chosen = new Set(pilot.kind === 'records' ? pilot.ids : []);
  if (pilot.kind === 'records' && (chosen.size === 0 || chosen.size > MOST_IN_PILOT))
    return unfit(
      'pilot.records',
      `A pilot runs for 1 to ${writeCount(MOST_IN_PILOT)} records. Choose some, or a selection.`,
    );
  if (pilot.kind === 'records') return { ok: true, within: amongThese(type, [...chosen]) };
  const typed = typeCondition(model, type, {
    ...{ kind: 'selection', operator: 'isIn', route: [], selection: pilot.selection },
  });
  if (typed.ok && gathersIn(typed.value).length > 0)
    return unfit(
      'pilot.selection',
      'A pilot runs for a selection that reads the records themselves and what lies above them, not what lies beneath. Choose another, or the records.',
    );
  return typed.ok ? { ok: true, within: typed.value } : unfit('pilot.selection', typed.problem.message);
}

/** `Rivers of Silk, Salt Roads and 3 more`, or `those in “Open now”`; by the titles of records. */
export function pilotWords(model: Model, pilot: Pilot, titles: Readonly<Record<string, string>>): string {
  if (pilot.kind === 'selection')
    return `those in “${model.selection(pilot.selection)?.name ?? pilot.selection}”`;
  const named = pilot.ids.slice(0, MOST_NAMED).map((id) => titles[id] ?? 'a record that is gone');
  const more = pilot.ids.length - named.length;
  return `${named.join(', ')}${more > 0 ? ` and ${more} more` : ''}`;
}

const MOST_NAMED = 3;

/** Whether a record is one of those chosen. */
const amongThese = (type: string, ids: readonly string[]): Typed => ({
  ...{ kind: 'among', operator: 'isAmong', type: YES_NO, options: ids },
  operand: {
    ...{ kind: 'field', from: type, route: [], owner: type, field: RECORD_ITSELF },
    type: { kind: 'link', target: type },
  },
});

function narrowed(model: Model, rule: AnyCompiled, pilot: Pilot, within: Typed): AnyCompiled {
  const reads = readsWith(model, rule, within);
  switch (rule.kind) {
    case 'create':
      return { ...rule, pilot, where: both(rule.where, within), reads };
    case 'formula':
      return { ...rule, pilot, claims: within, reads };
    case 'linked':
      return { ...rule, pilot, appliesWhen: both(rule.appliesWhen, within), reads };
    case 'rollUp': {
      const part = (one: CompiledRollUp): CompiledRollUp => ({
        ...{ ...one, pilot },
        ...(isReacting(one) ? { appliesWhen: both(one.appliesWhen, within) } : { claims: within }),
        reads: readsWith(model, one, within),
      });
      return { ...part(rule), together: rule.together.map(part) };
    }
    case 'keptCascade': {
      if (rule.several) {
        const some = (one: KeptCascade): KeptCascade => {
          const narrow = fromSome({ ...one, pilot }, certain(one.several), within);
          return { ...narrow, reads: readsWith(model, one, narrow.appliesWhen) };
        };
        return { ...some(rule), parts: rule.parts.map(some) };
      }
      const taken = typedPrefixed(within, rule.writes.type, upFrom(rule.definition.route));
      const part = (one: KeptCascade): KeptCascade => ({
        ...{ ...one, pilot },
        appliesWhen: both(one.appliesWhen, taken),
        reads: readsWith(model, one, taken),
      });
      return { ...part(rule), parts: rule.parts.map(part) };
    }
    case 'reactingCascade': {
      const part = (one: ReactingCascade): ReactingCascade => ({
        ...{ ...one, pilot },
        given: both(one.given, within),
        reads: [...one.reads, ...readsOf(model, one.source, within).map((read) => ({ ...read, path: [] }))],
      });
      return { ...part(rule), parts: rule.parts.map(part) };
    }
  }
}

export const readsOf = (model: Model, type: string, node: Typed): readonly Read[] => {
  const paths = new ReadPaths(model, type);
  paths.addFields([], node);
  paths.addGathered(node);
  return paths.all();
};

/** What a rule reads, and what its pilot hangs on; of a field that it keeps elsewhere also what people enter there. */
function readsWith(model: Model, rule: AnyCompiled, within: Typed): Read[] {
  const own: Read[] = isClaimingAnew(rule) ? [{ ...rule.writes, path: stepsUp([]) }] : [];
  return withReads(rule, [...readsOf(model, rule.writes.type, within), ...own]);
}

/** What a rule reads, and what it hangs on whether it runs for a record. */
export function withReads(rule: AnyCompiled, more: readonly Read[]): Read[] {
  const has = (read: Read) =>
    rule.reads.some(
      (known) => known.field === read.field && JSON.stringify(known.path) === JSON.stringify(read.path),
    );
  return [...rule.reads, ...more.filter((read) => !has(read)).map((read) => ({ ...read, isEntered: true }))];
}

const isClaimingAnew = (rule: AnyCompiled): rule is CompiledRule =>
  rule.kind === 'formula' || (rule.kind === 'rollUp' && !isReacting(rule));
