import { functionEntry } from '@/core/syntax/functions';
import { fieldIn, type Model, typeUp } from '@/core/model';
import { displayValue, unreachable, firstIn } from '@/core/values';
import { evaluate } from './evaluate/evaluate';
import { RECORD_ITSELF, type Typed, type TypedField, type TypedGather } from '@/core/syntax/expression';
import { OF_RUN } from './of-run';
import { operatorWords } from './operators';
import { fieldsRead } from './reads';
import { Failure, OUTSIDE, type ReadField } from './evaluate/worked';

export type NameOf = (id: string) => string | undefined;

/** A field in words: `Stage`, or `Exhibition’s stage` up a route. */
export function describeField(model: Model, field: TypedField): string {
  const names = routeNames(model, field.from, field.route);
  if (field.field === RECORD_ITSELF) return names.length === 0 ? 'the record' : names.join('’s ');
  const own = fieldIn(model, field.owner, field.field).name;
  return names.length === 0 ? own : `${names.join('’s ')}’s ${own.charAt(0).toLowerCase()}${own.slice(1)}`;
}

/** A condition in words: `Stage is Agreed and Insured value is more than 500.00 GBP`. */
export function describe(model: Model, node: Typed, nameOf?: NameOf): string {
  switch (node.kind) {
    case 'constant':
      return node.words ?? displayValue(node.type, node.value, nameOf);
    case 'field':
      return describeField(model, node);
    case 'compare':
      return `${describe(model, node.left, nameOf)} ${operatorWords(node.operator, node.left.type.kind)} ${describe(model, node.right, nameOf)}`;
    case 'presence':
      return `${describe(model, node.operand, nameOf)} ${operatorWords(node.operator, node.operand.type.kind)}`;
    case 'among': {
      if (node.operand.kind === 'field' && node.operand.field === RECORD_ITSELF)
        return `${describeField(model, node.operand)} is in the pilot`;
      const options = node.options.map((option) => displayValue(node.operand.type, option, nameOf));
      return `${describe(model, node.operand, nameOf)} ${operatorWords(node.operator, node.operand.type.kind)} ${options.join(', ')}`;
    }
    case 'match':
      return `${describe(model, node.operand, nameOf)} ${operatorWords(node.operator, node.operand.type.kind)} ${describe(model, node.part, nameOf)}`;
    case 'group':
      return describeGroup(model, node, nameOf);
    case 'selection':
      return describeSelection(model, node);
    case 'arithmetic':
      return `${describe(model, node.left, nameOf)} ${SIGNS[node.operator]} ${describe(model, node.right, nameOf)}`;
    case 'negate':
      return `−${describe(model, node.operand, nameOf)}`;
    case 'if': {
      const [test, then, otherwise] = [node.condition, node.then, node.otherwise].map((part) =>
        describe(model, part, nameOf),
      );
      return `${then} if ${test}, else ${otherwise}`;
    }
    case 'call':
      return describeCall(model, node, nameOf);
    case 'exchange':
      return `${describe(model, node.amount, nameOf)} in ${(node.type as { currency: string }).currency} at the rate of ${describe(model, node.day, nameOf)}`;
    case 'gather':
      return describeGather(model, node, nameOf);
    case 'ofRun':
      return OF_RUN[node.what].words;
    default:
      return unreachable(node);
  }
}

/** The time zone goes without saying. */
function describeCall(model: Model, node: Extract<Typed, { kind: 'call' }>, nameOf?: NameOf): string {
  const given = functionEntry(node.name).isInZone ? node.arguments.slice(0, -1) : node.arguments;
  return `${node.name}(${given.map((part) => describe(model, part, nameOf)).join(', ')})`;
}

const SIGNS = { '+': '+', '-': '−', '*': '×', '/': '÷' } as const;

/** `the sum of Insured value over Loans where Stage is Agreed`. */
function describeGather(model: Model, node: TypedGather, nameOf?: NameOf): string {
  const above = routeNames(model, node.from, node.up);
  const lists = node.down.map(({ type, link }) => fieldIn(model, type, link).otherEnd ?? type);
  const records = [...above, ...lists].join('’s ');
  const value = node.value ? ` of ${describe(model, node.value, nameOf)} over ${records}` : ` of ${records}`;
  const where = node.condition ? ` where ${describe(model, node.condition, nameOf)}` : '';
  return `the ${GATHERED[node.aggregate]}${value}${where}`;
}

const GATHERED = {
  ...{ count: 'count', countDistinct: 'number of different values', sum: 'sum', average: 'average' },
  ...{ median: 'median', deviation: 'standard deviation' },
  ...{ minimum: 'minimum', maximum: 'maximum', all: 'answer “all”', any: 'answer “any”' },
  leading: 'first',
} as const;

/** `is in “Not inspected lately”`, or `Exhibition is in “Open now”` up a route. */
function describeSelection(model: Model, node: Extract<Typed, { kind: 'selection' }>): string {
  const names = routeNames(model, node.from, node.route);
  const test = `${node.operator === 'isIn' ? 'is in' : 'is not in'} “${node.name}”`;
  return names.length === 0 ? test : `${names.join('’s ')} ${test}`;
}

const routeNames = (model: Model, from: string, route: readonly string[]): string[] =>
  route.map((link, index) => fieldIn(model, typeUp(model, from, route.slice(0, index)), link).name);

function describeGroup(model: Model, node: Extract<Typed, { kind: 'group' }>, nameOf?: NameOf): string {
  const parts = node.of.map((part) => {
    const words = describe(model, part, nameOf);
    return part.kind === 'group' && part.of.length > 1 ? `(${words})` : words;
  });
  if (node.operator === 'none') return `not (${parts.join(' or ')})`;
  return parts.join(node.operator === 'all' ? ' and ' : ' or ');
}

/** A test that left a record out: the test in words, and what was found in the fields that it reads. */
export interface Reason {
  readonly test: string;
  readonly found: string;
}

/**
 * Why a condition doesn't hold, down to the tests that decide it: for `all` those that fail, for `any` all of them (each
 * fails), for `none` those that hold. Empty when the condition holds.
 */
export function reasonsAgainst(model: Model, node: Typed, read: ReadField, nameOf?: NameOf): Reason[] {
  if (evaluate(node, read) === true) return [];
  if (node.kind === 'selection' && node.operator === 'isIn')
    return reasonsAgainst(model, node.of, read, nameOf).map((reason) => ({
      ...reason,
      test: `“${node.name}”: ${reason.test}`,
    }));
  if (node.kind !== 'group') return [reasonOf(model, node, read, nameOf)];
  if (node.operator === 'none') {
    return node.of
      .filter((part) => evaluate(part, read) === true)
      .map((part) => {
        const reason = reasonOf(model, part, read, nameOf);
        return { ...reason, test: `not ${reason.test}` };
      });
  }
  return node.of.flatMap((part) => reasonsAgainst(model, part, read, nameOf));
}

function reasonOf(model: Model, node: Typed, read: ReadField, nameOf?: NameOf): Reason {
  const shown = (field: TypedField) => {
    const value = read(field);
    if (value instanceof Failure) return 'not worked out';
    return value === OUTSIDE ? 'outside this family' : displayValue(field.type, value, nameOf);
  };
  const fields = fieldsRead(node);
  const found =
    fields.length === 1
      ? [shown(firstIn(fields))]
      : fields.map((field) => `${describeField(model, field)} is ${shown(field)}`);
  return { test: describe(model, node, nameOf), found: [...new Set(found)].join(', ') };
}
