import { fieldsRead, type Typed } from '@/core/expression';
import { type Field, type Model, type RecordType, typeAlong } from '@/core/model';
import { firstIn } from '@/core/values';
import {
  type Assignment,
  type Cascade,
  type ReactingCascade,
  type CompiledTest,
  type CompiledAssignedValue,
  type CompiledAssigning,
} from './cascade';
import { bridgeOn, type Reach, upFrom } from './cascade-route';
import type { Rule } from '@/core/rules/rule';
import type { Read, FieldRef } from '@/core/rules/shared/base';

/** What all assignments of a cascade share, typed. */
export interface Shared {
  readonly condition: Typed | null;
  readonly same: readonly Field[];
  readonly order: ReactingCascade['order'];
  readonly where: Typed | null;
  readonly tests: readonly CompiledTest[];
}

/** One of its assignments. */
export interface Part extends Shared {
  readonly source: RecordType;
  readonly recipient: RecordType;
  readonly reach: Reach;
  readonly assignment: Assignment;
  readonly at: number;
}

/** What one assignment of a cascade that reacts comes to. */
export function reactingPart(
  model: Model,
  rule: Rule<Cascade>,
  part: Part,
  target: Field,
  { value, given, type }: CompiledAssigning,
): ReactingCascade {
  const { source, recipient, condition, same, order, where, tests } = part;
  const { definition } = rule;
  const writes = { type: recipient.key, field: target.key };
  const moment =
    definition.moment === 'atCreation'
      ? ({
          kind: 'atCreation',
          isBeside: part.reach === 'siblings',
          up: part.reach === 'siblings' ? [firstIn(definition.route).link] : upFrom(definition.route),
        } as const)
      : ({ kind: 'onChange', tests, where } as const);
  const reads = readsOf(model, definition, part, value, given);
  return {
    ...baseOf(rule, { writes, target, reads }),
    ...{
      kind: 'reactingCascade',
      definition,
      parts: [],
      source: source.key,
      route: definition.route,
      isAllTheWay: definition.isAllTheWay === true,
      same,
      condition,
    },
    ...{
      moment,
      only: definition.only ?? 'all',
      order,
      value,
      via: viaIn(model, definition, value),
      given,
      resultType: type,
      pace: 'withTheSave',
    },
  };
}

/** The bridge that a text reads on its way. */
function viaIn(model: Model, { type, route }: Cascade, value: CompiledAssignedValue): string | null {
  const bridge = bridgeOn(model, type, route);
  const isRead =
    value.kind === 'text' && value.parts.some((part) => typeof part !== 'string' && part.from === bridge);
  return isRead ? bridge : null;
}

/** Fields, wherever they are: a rule that acts on changes comes after all that may change these. */
function readsOf(
  model: Model,
  definition: Cascade,
  { source, recipient, condition, same, order, where, tests }: Part,
  value: CompiledAssignedValue,
  given: Typed | null,
): Read[] {
  const reads: Read[] = [];
  const add = ({ type, field }: FieldRef) => void reads.push({ type, field, path: [] });
  const addAll = (node: Typed | null) => {
    if (!node) return;
    for (const { from, route, owner, field } of fieldsRead(node)) {
      add({ type: owner, field });
      route.forEach((link, at) =>
        add({
          type: typeAlong(
            model,
            from,
            route.slice(0, at).map((up) => ({ direction: 'up', link: up })),
          ),
          field: link,
        }),
      );
    }
  };
  definition.route.forEach((step, at) => {
    const type =
      step.direction === 'down' ? step.type : typeAlong(model, source.key, definition.route.slice(0, at));
    add({ type, field: step.link });
  });
  for (const test of tests) add({ type: source.key, field: test.field.key });
  for (const { key } of same) for (const { key: type } of [source, recipient]) add({ type, field: key });
  for (const node of [condition, where, order?.field ?? null, given]) addAll(node);
  if (value.kind === 'worked') addAll(value.value);
  else for (const part of value.parts) if (typeof part !== 'string') addAll(part);
  return reads;
}

/** What all that a cascade writes is made of. */
export function baseOf(
  { id, version, name }: Rule<Cascade>,
  {
    writes,
    target,
    reads,
  }: { readonly writes: FieldRef; readonly target: Field; readonly reads: readonly Read[] },
) {
  return {
    id,
    version,
    name,
    writes,
    target,
    reads,
    rounding: null,
    limits: null,
    rates: null,
    recursion: null,
    map: null,
  };
}
