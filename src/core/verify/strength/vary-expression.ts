import {
  describe,
  type Expression,
  OF_RUN,
  readFeel,
  type Typed,
  typeCondition,
  typeFieldRead,
  typeValue,
} from '@/core/expression';
import { fieldIn, follow, type Model, typeIn } from '@/core/model';
import { currencyPlaces, Decimal, shiftDay, type ValueType, type WireValue, lastIn } from '@/core/values';

/** An expression changed a little, and what was done to it, in words. */
export interface Changed {
  readonly to: Expression;
  readonly what: string;
}

/** The type of the records on which an expression is read. */
interface On {
  readonly model: Model;
  readonly type: string;
}

/**
 * Every way to change an expression a little that may matter: a part left out or turned round, a limit moved by one, another comparison, field
 * or operator. Some may not fit where the expression stands; whoever puts one there checks it.
 */
export function* changesOf(on: On, node: Expression): Generator<Changed> {
  switch (node.kind) {
    case 'feel': {
      const read = readFeel(on.model, on.type, node.text);
      if (read.ok) yield* changesOf(on, read.value.expression);
      return;
    }
    case 'group':
      yield* groupChanges(on, node);
      return;
    case 'compare':
      yield* compareChanges(on, node);
      return;
    case 'presence': {
      const operator = node.operator === 'isEmpty' ? 'isNotEmpty' : 'isEmpty';
      yield said(on, node, { ...node, operator });
      return;
    }
    case 'among':
      yield said(on, node, { ...node, operator: node.operator === 'isAmong' ? 'isNotAmong' : 'isAmong' });
      for (const [at] of node.options.entries())
        if (node.options.length > 1)
          yield said(on, node, { ...node, options: node.options.filter((_, index) => index !== at) });
      return;
    case 'match':
      yield said(on, node, { ...node, operator: node.operator === 'contains' ? 'startsWith' : 'contains' });
      return;
    case 'selection':
      yield said(on, node, { ...node, operator: node.operator === 'isIn' ? 'isNotIn' : 'isIn' });
      return;
    case 'arithmetic': {
      const operator = ({ '+': '-', '-': '+', '*': '/', '/': '*' } as const)[node.operator];
      yield said(on, node, { ...node, operator });
      if (node.operator === '-' || node.operator === '/')
        yield said(on, node, { ...node, left: node.right, right: node.left });
      yield* within(on, node, ['left', 'right']);
      return;
    }
    case 'negate':
      yield said(on, node, node.operand);
      yield* within(on, node, ['operand']);
      return;
    case 'if':
      yield said(on, node, { ...node, then: node.otherwise, otherwise: node.then });
      yield* within(on, node, ['condition', 'then', 'otherwise']);
      return;
    case 'call':
      for (const [at, one] of node.arguments.entries())
        for (const { to, what } of changesOf(on, one))
          yield {
            to: { ...node, arguments: node.arguments.map((old, index) => (index === at ? to : old)) },
            what,
          };
      return;
    case 'gather':
      yield* gatherChanges(on, node);
      return;
    case 'field':
      yield* fieldChanges(on, node);
      return;
    case 'ofRun':
      // A field of the record that holds the like.
      for (const { key, name, type } of typeIn(on.model, on.type).fields)
        if (type.kind === OF_RUN[node.what].type.kind)
          yield {
            to: { kind: 'field', route: [], field: key },
            what: `with ${name} in place of ${OF_RUN[node.what].words}`,
          };
      return;
    case 'day':
    case 'constant':
  }
}

/** The same with one of its parts changed. */
function* within<N extends Expression>(on: On, node: N, parts: readonly (keyof N)[]): Generator<Changed> {
  for (const part of parts)
    for (const { to, what } of changesOf(on, node[part] as Expression))
      yield { to: { ...node, [part]: to }, what };
}

type Group = Extract<Expression, { kind: 'group' }>;

function* groupChanges(on: On, node: Group): Generator<Changed> {
  const { of, operator } = node;
  if (of.length > 1 && operator !== 'none')
    yield said(on, node, { ...node, operator: operator === 'all' ? 'any' : 'all' });
  for (const [at, part] of of.entries()) {
    const put = (to: Expression): Group => ({
      ...node,
      of: of.map((old, index) => (index === at ? to : old)),
    });
    if (of.length > 1)
      yield {
        to: { ...node, of: of.filter((_, index) => index !== at) },
        what: `without “${wordsOf(on, part)}”`,
      };
    // Of a single test the opposite comes from its operator.
    if (part.kind === 'group' || part.kind === 'feel')
      yield {
        to: put({ kind: 'group', operator: 'none', of: [part] }),
        what: `with the opposite of “${wordsOf(on, part)}”`,
      };
    for (const { to, what } of changesOf(on, part)) yield { to: put(to), what };
  }
}

type Compare = Extract<Expression, { kind: 'compare' }>;

const NEAR: Record<Compare['operator'], readonly Compare['operator'][]> = {
  '=': ['!='],
  '!=': ['='],
  '<': ['<=', '>='],
  '<=': ['<', '>'],
  '>': ['>=', '<='],
  '>=': ['>', '<'],
};

function* compareChanges(on: On, node: Compare): Generator<Changed> {
  for (const operator of NEAR[node.operator]) yield said(on, node, { ...node, operator });
  if (node.right.kind === 'constant') {
    const type = typeOf(on, node.left);
    for (const value of type ? movedByOne(type, node.right.value) : [])
      yield said(on, node, { ...node, right: { ...node.right, value } });
  }
  yield* within(on, node, ['left']);
  if (node.right.kind !== 'constant') yield* within(on, node, ['right']);
}

/** A limit one step further, and one step nearer; the options beside one. */
export function movedByOne(type: ValueType, value: WireValue): WireValue[] {
  if (value === null) return [];
  const by = (amount: string, step: Decimal): string[] =>
    [new Decimal(amount).plus(step), new Decimal(amount).minus(step)].map((one) => one.toFixed());
  switch (type.kind) {
    case 'number':
    case 'rating':
      return by(String(value), new Decimal(10).pow(type.kind === 'number' ? -type.scale : 0));
    case 'money': {
      const { amount } = value as { amount: string; currency: string };
      return by(amount, new Decimal(10).pow(-currencyPlaces(type.currency))).map((moved) => ({
        amount: moved,
        currency: type.currency,
      }));
    }
    case 'date':
      return [1, -1].flatMap((days) => shiftDay(String(value), days) ?? []);
    case 'choice': {
      const at = type.options.findIndex(({ key }) => key === value);
      return [at - 1, at + 1].flatMap((next) => type.options[next]?.key ?? []);
    }
    case 'yesNo':
      return [value !== true];
    default:
      return [];
  }
}

type Gather = Extract<Expression, { kind: 'gather' }>;

const OTHERWISE: Record<Gather['aggregate'], readonly Gather['aggregate'][]> = {
  count: ['countDistinct'],
  countDistinct: ['count'],
  sum: ['average', 'maximum'],
  average: ['sum', 'maximum'],
  median: ['average', 'maximum'],
  deviation: ['average', 'maximum'],
  minimum: ['maximum'],
  maximum: ['minimum'],
  all: ['any'],
  any: ['all'],
};

function* gatherChanges(on: On, node: Gather): Generator<Changed> {
  for (const aggregate of OTHERWISE[node.aggregate]) yield said(on, node, { ...node, aggregate });
  const there = { model: on.model, type: lastIn(node.down).type };
  if (node.condition) {
    yield { to: { ...node, condition: null }, what: `without “${wordsOf(there, node.condition)}”` };
    for (const { to, what } of changesOf(there, node.condition))
      yield { to: { ...node, condition: to }, what };
  }
  if (node.value)
    for (const { to, what } of changesOf(there, node.value)) yield { to: { ...node, value: to }, what };
}

/** Another field of the same record that holds the like. */
function* fieldChanges(
  { model, type }: On,
  node: Extract<Expression, { kind: 'field' }>,
): Generator<Changed> {
  const owner = follow(model, type, node.route);
  const own = owner === undefined ? undefined : model.field(owner, node.field);
  if (owner === undefined || !own) return;
  for (const other of typeIn(model, owner).fields)
    if (other.key !== own.key && isLike(own.type, other.type))
      yield {
        to: { ...node, field: other.key },
        what: `with ${other.name} in place of ${fieldIn(model, owner, own.key).name}`,
      };
}

const isLike = (one: ValueType, other: ValueType): boolean =>
  one.kind !== 'link' &&
  one.kind !== 'serial' &&
  JSON.stringify({ ...one, scale: 0 }) === JSON.stringify({ ...other, scale: 0 });

const said = (on: On, from: Expression, to: Expression): Changed => ({
  to,
  what: `with “${wordsOf(on, to)}” in place of “${wordsOf(on, from)}”`,
});

/** An expression in the words of a sentence; as well as it can be told. */
export function wordsOf({ model, type }: On, node: Expression): string {
  const typed = typedOf(model, type, node);
  return typed ? describe(model, typed) : 'an expression';
}

function typedOf(model: Model, type: string, node: Expression): Typed | null {
  const condition = typeCondition(model, type, node, { usesRunContext: true });
  if (condition.ok) return condition.value;
  const value = typeValue(model, type, node, { usesRunContext: true });
  return value.ok ? value.value : null;
}

const typeOf = ({ model, type }: On, node: Expression): ValueType | null => {
  if (node.kind === 'field') {
    const read = typeFieldRead(model, type, node);
    return read.ok ? read.value.type : null;
  }
  return typedOf(model, type, node)?.type ?? null;
};
