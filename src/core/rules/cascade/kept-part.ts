import {
  RECORD_ITSELF,
  type Typed,
  type TypedField,
  typedPrefixed,
  type TypedGather,
  typeFieldRead,
  YES_NO,
} from '@/core/expression';
import { type Field, type Model, type StepDown, stepDown, typeAlong } from '@/core/model';
import { firstIn, lastIn, type ValueType } from '@/core/values';
import { both } from '@/core/rules/shared/both';
import { ratesReadBy } from '@/core/rules/shared/rates-read';
import { ReadPaths } from '@/core/rules/shared/read-paths';
import type { Rule } from '@/core/rules/rule';
import type { Read } from '@/core/rules/shared/base';
import type { Leading } from '@/core/syntax/expression';
import type { Cascade, FromSeveral, KeptCascade } from './cascade';
import { turnOf, upFrom } from './cascade-route';
import { baseOf, type Part } from './reacting-part';

/** What is kept in step, typed on the record that cascades it, and where it gives something (`null`: always). */
export interface KeptValue {
  readonly value: Typed;
  readonly given: Typed | null;
  readonly type: ValueType;
}

/** What a rule gives, typed on the record that takes it, and the tests that must hold where it claims the field. */
interface OnRecipient {
  readonly value: Typed;
  readonly tests: readonly Typed[];
  readonly several: FromSeveral | null;
}

/**
 * One assignment of a cascade that is kept in step. Beneath a record each has one that cascades to it; elsewhere several may: of those that
 * have something to give the first by the rule's order does. Where none does it claims nothing.
 */
export function keptPart(
  model: Model,
  rule: Rule<Cascade>,
  part: Part,
  target: Field,
  assigned: KeptValue,
): KeptCascade {
  const { definition } = rule;
  const { recipient, condition, reach } = part;
  const { value, tests, several } =
    reach === 'beneath'
      ? fromAbove(model, definition, part, assigned)
      : fromSeveral(model, definition, part, assigned);
  const all = [...tests, ...(condition ? [condition] : [])];
  const appliesWhen: Typed =
    all.length === 1 ? firstIn(all) : { kind: 'group', type: YES_NO, operator: 'all', of: all };
  const reads = new ReadPaths(model, recipient.key);
  if (reach === 'beneath') reads.addUp([], recipient.key, upFrom(definition.route));
  for (const node of [value, appliesWhen]) {
    reads.addFields([], node);
    reads.addGathered(node);
  }
  const [step] = definition.route;
  const isFromSame = ({ path, type, field }: Read) =>
    path.length > 0 && type === recipient.key && field === target.key;
  const isDownItself =
    definition.route.length === 1 && step?.direction === 'down' && definition.type === recipient.key;
  const handsDown =
    isDownItself && step && reads.all().some(isFromSame) ? { type: recipient.key, link: step.link } : null;
  return {
    ...baseOf(rule, { writes: { type: recipient.key, field: target.key }, target, reads: reads.all() }),
    ...{
      kind: 'keptCascade',
      definition,
      parts: [],
      value,
      appliesWhen,
      handsDown,
      several,
      otherwise: null,
    },
    ...{ rates: ratesReadBy([value, appliesWhen]), resultType: assigned.type, pace: definition.pace },
  };
}

/** The same with what people enter in its target among what it reads: that is held against it. */
export function enteredToo(model: Model, rule: KeptCascade): KeptCascade {
  const { type, field } = rule.writes;
  const reads = new ReadPaths(model, type);
  reads.addOwn(field);
  return { ...rule, reads: [...rule.reads, ...reads.all()] };
}

function fromAbove(
  model: Model,
  { route, type: source }: Cascade,
  { recipient, same }: Part,
  { value, given }: KeptValue,
): OnRecipient {
  const up = upFrom(route);
  const onward = (node: Typed) => typedPrefixed(node, recipient.key, up);
  const alike = same.map((field): Typed => {
    const own = fieldOf(recipient.key, [], recipient.key, field);
    const theirs = fieldOf(recipient.key, up, source, field);
    return { kind: 'compare', type: YES_NO, operator: '=', left: own, right: theirs };
  });
  const nearest = typeFieldRead(model, recipient.key, {
    kind: 'field',
    route: up.slice(0, -1),
    field: lastIn(up),
  });
  if (!nearest.ok) throw new Error(nearest.problem.message);
  return {
    ...{ value: onward(value), several: null },
    tests: [isThere(nearest.value), ...alike, ...(given ? [onward(given)] : [])],
  };
}

/** The way from a record that takes values to those that cascade them: up, down to records that lie between or are they, and up from these. */
interface WayBack {
  readonly up: readonly string[];
  readonly down: readonly StepDown[];
  /** From each of the lowest to the one that cascades. */
  readonly onward: readonly string[];
}

function wayBack(model: Model, { type: source, route }: Cascade, isBeside: boolean): WayBack {
  if (isBeside)
    return {
      up: [firstIn(route).link],
      down: [stepDown({ type: source, link: firstIn(route).link })],
      onward: [],
    };
  const turn = turnOf(route);
  const down = route
    .slice(turn)
    .map(({ link }, at): StepDown =>
      stepDown({ type: typeAlong(model, source, route.slice(0, turn + at)), link }),
    );
  return { up: [], down: down.reverse(), onward: upFrom(route.slice(0, turn)) };
}

function fromSeveral(
  model: Model,
  definition: Cascade,
  { source, recipient, reach, same, order, condition: taken }: Part,
  { value, given }: KeptValue,
): OnRecipient {
  const { up, down, onward } = wayBack(model, definition, reach === 'siblings');
  const member = lastIn(down).type;
  const there = (node: Typed) => typedPrefixed(node, member, onward);
  const id = idOf(member, onward, source.key);
  const leading: Leading = {
    order: order && { ...order, field: order.field && (there(order.field) as TypedField) },
    id,
    apart: reach === 'siblings' ? idOf(recipient.key, [], recipient.key) : null,
    same: same.map((field) => ({
      own: fieldOf(recipient.key, [], recipient.key, field),
      theirs: fieldOf(member, onward, source.key, field),
    })),
  };
  const tests = [...(onward.length > 0 ? [isThere(id)] : []), ...(given ? [there(given)] : [])];
  const condition: Typed | null =
    tests.length < 2 ? (tests[0] ?? null) : { kind: 'group', type: YES_NO, operator: 'all', of: tests };
  const common = { kind: 'gather', from: recipient.key, member, up, down, condition, leading } as const;
  const yes: Typed = { kind: 'constant', type: YES_NO, value: true };
  const leads: TypedGather = { ...common, type: value.type, aggregate: 'leading', value: there(value) };
  return {
    value: leads,
    several: { leads, value, given, condition: taken, same },
    tests: [{ ...common, type: YES_NO, aggregate: 'any', value: yes }],
  };
}

/** A field read on a record of a type, or of one up its links (`owner`). */
const fieldOf = (
  from: string,
  route: readonly string[],
  owner: string,
  { key, type }: Field,
): TypedField => ({
  ...{ kind: 'field', from, route, owner, field: key },
  type,
});

/** The id of a record, or of one up its links. */
const idOf = (from: string, route: readonly string[], owner: string): TypedField => ({
  ...{ kind: 'field', from, route, owner, field: RECORD_ITSELF },
  type: { kind: 'link', target: owner },
});

const isThere = (operand: TypedField): Typed => ({
  ...{ kind: 'presence', type: YES_NO, operator: 'isNotEmpty' },
  operand,
});

/** The same rule where only some records cascade: those that meet a test on them. */
export function fromSome(rule: KeptCascade, several: FromSeveral, within: Typed): KeptCascade {
  const { leads, given } = several;
  const there = typedPrefixed(within, leads.member, leads.leading?.id.route ?? []);
  const some = (node: Typed): Typed => {
    if (node.kind === 'group') return { ...node, of: node.of.map(some) };
    if (node.kind !== 'gather' || !node.leading) return node;
    return { ...node, condition: both(node.condition, there) };
  };
  const value = some(leads);
  return {
    ...{ ...rule, value, appliesWhen: some(rule.appliesWhen) },
    several: { ...several, leads: value as TypedGather, given: both(given, within) },
  };
}
