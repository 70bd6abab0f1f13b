import { typeIn } from '@/core/model';
import { readerOf, type Row } from '@/core/engine';
import {
  describe,
  evaluatorOf,
  Failure,
  inRun,
  type NameOf,
  operatorWords,
  OUTSIDE,
  type RunContext,
  type Typed,
  typeCondition,
  type Worked,
} from '@/core/expression';
import { type AnyCompiled, type CompiledRule, isCreate, isReactingCascade, versionOn } from '@/core/rules';
import { displayValue, type ValueType } from '@/core/values';
import { conditionsOf } from './conditions-of';
import type { ViewContext } from './views';

/** Whether a test holds on a record: it may hang on what lies outside the family, or on a value with a problem. */
export type Verdict = 'holds' | 'fails' | 'outside' | 'problem';

/** One step of reading a condition: a test with its two sides, or several that are joined. */
export interface TestRead {
  readonly words: string;
  readonly verdict: Verdict;
  /** What each side comes to, in its words and as a value; none of several tests joined. */
  readonly sides: readonly { readonly words: string; readonly value: string }[];
  /** What stands between the two sides: `is at least`. */
  readonly operator: string | null;
  /** Of several joined: how, and each of them. */
  readonly join: 'all' | 'any' | 'none' | null;
  readonly of: readonly TestRead[];
}

export interface ConditionRead {
  /** `which Loans count`. */
  readonly name: string;
  /** What it is asked of. */
  readonly record: string;
  readonly test: TestRead;
}

/**
 * Reads the conditions of a rule on records one by one: of the record that the rule is on, or of one that lies on its way. Each test with its two
 * sides and its verdict. What isn't asked of a record of that type is left out.
 */
export function traceConditions(
  context: ViewContext & { readonly facts?: RunContext },
  rule: AnyCompiled,
  row: Row,
): ConditionRead[] {
  const { model } = context;
  const nameOf: NameOf = (id) => context.names[id] ?? titleIn(context, id);
  const title = String(row.values[typeIn(model, row.type).title] ?? row.id);
  const read = (node: Typed) => readTest(context, node, row, nameOf);
  const conditions = [...conditionsOf(model, rule.definition)].flatMap(
    ({ type, condition, name }): ConditionRead[] => {
      const typed = type === row.type ? typeCondition(model, type, condition) : null;
      return typed?.ok ? [{ name, record: title, test: read(typed.value) }] : [];
    },
  );
  const where =
    isReactingCascade(rule) && rule.source === row.type && rule.moment.kind === 'onChange'
      ? rule.moment.where
      : null;
  return [
    ...conditions,
    ...(where
      ? [{ name: 'when it cascades', record: title, test: read(inRun(where, context.facts ?? null)) }]
      : []),
    ...pilotOf(rule, row.type).map((node) => ({ name: 'in the pilot', record: title, test: read(node) })),
  ];
}

/** A rule that takes part, as it runs for a record: of two versions that run beside each other that one's. */
export function ruleOn({ model, plan, store }: ViewContext, id: string, row: Row): AnyCompiled | undefined {
  const versions = plan.turns.filter((one) => one.id === id);
  const ofRow = versions.filter((one): one is CompiledRule => !isCreate(one) && one.writes.type === row.type);
  return versionOn(ofRow, row, readerOf(model, store)) ?? versions[0];
}

function pilotOf(rule: AnyCompiled, type: string): readonly Typed[] {
  if (isCreate(rule) || isReactingCascade(rule) || rule.writes.type !== type) return [];
  if (rule.half) return [rule.half.within];
  return 'claims' in rule && rule.claims ? [rule.claims] : [];
}

function titleIn({ model, store }: ViewContext, id: string): string | undefined {
  for (const { key, title } of model.types) {
    const row = store.row(key, id);
    if (row) return String(row.values[title] ?? '');
  }
  return undefined;
}

function readTest(context: ViewContext, node: Typed, row: Row, nameOf: NameOf): TestRead {
  const { model } = context;
  const reader = readerOf(model, context.store);
  const work = (part: Typed): Worked => evaluatorOf(part)(row, reader.given, reader.beneath);
  const base = { words: describe(model, node, nameOf), verdict: verdictOf(work(node)) };
  const none = { sides: [], operator: null, join: null, of: [] };
  const side = (part: Typed) => ({
    words: describe(model, part, nameOf),
    value: shown(part.type, work(part), nameOf),
  });
  switch (node.kind) {
    case 'group':
      return {
        ...base,
        ...none,
        join: node.operator,
        of: node.of.map((part) => readTest(context, part, row, nameOf)),
      };
    case 'selection':
      return { ...base, ...none, join: 'all', of: [readTest(context, node.of, row, nameOf)] };
    case 'compare':
      return {
        ...{ ...base, ...none, sides: [side(node.left), side(node.right)] },
        operator: operatorWords(node.operator, node.left.type.kind),
      };
    case 'presence':
      return {
        ...{ ...base, ...none, sides: [side(node.operand)] },
        operator: operatorWords(node.operator, node.operand.type.kind),
      };
    case 'among':
      return {
        ...{ ...base, ...none },
        sides: [
          side(node.operand),
          optionsRead(node.options.map((one) => displayValue(node.operand.type, one, nameOf)).join(', ')),
        ],
        operator: operatorWords(node.operator, node.operand.type.kind),
      };
    case 'match':
      return {
        ...{ ...base, ...none, sides: [side(node.operand), side(node.part)] },
        operator: operatorWords(node.operator, node.operand.type.kind),
      };
    default:
      return { ...base, ...none };
  }
}

const optionsRead = (words: string) => ({ words, value: words });

const verdictOf = (worked: Worked): Verdict =>
  worked === OUTSIDE
    ? 'outside'
    : worked instanceof Failure
      ? 'problem'
      : worked === true
        ? 'holds'
        : 'fails';

function shown(type: ValueType, worked: Worked, nameOf: NameOf): string {
  if (worked === OUTSIDE) return 'outside this family';
  if (worked instanceof Failure) return 'not worked out';
  return displayValue(type, worked, nameOf);
}
