import { membersOf, OWN_FIELDS, readerOf, type Row, storedOutcome, titleOf } from '@/core/engine';
import { OUTSIDE } from '@/core/expression';
import { aggregate, type CompiledRollUp, type Members } from '@/core/rules';
import { certain, displayValue, isError } from '@/core/values';
import { problemWords, type ViewContext } from './views';

/** A record on the way down of a rule that goes all the way down, with what it gives. */
export interface TreeRow {
  readonly type: string;
  readonly id: string;
  readonly title: string;
  /** 0 for the record whose value is opened. */
  readonly depth: number;
  /** What it and what lies directly in it give, without its parts. */
  readonly own: string;
  /** What it gives with its parts. */
  readonly result: string;
  /** Whether a value of its own stands in for all of it. */
  readonly isStandingIn: boolean;
}

export interface Tree {
  readonly rows: readonly TreeRow[];
  /** How many more there are than are shown. */
  readonly more: number;
}

const MOST_SHOWN = 200;

/** The way down from a record, with each one's own share and what it comes to with its parts; `null` where a rule doesn't go so far. */
export function treeOf(context: ViewContext, rule: CompiledRollUp, root: Row): Tree | null {
  if (!rule.recursion) return null;
  const rows: TreeRow[] = [];
  let more = 0;
  const go = (row: Row, depth: number) => {
    if (rows.length < MOST_SHOWN) rows.push(rowView(context, rule, row, depth));
    else more += 1;
    for (const part of partsOf(context, rule, row)) go(part, depth + 1);
  };
  go(root, 0);
  return { rows, more };
}

/** A part that is used twice is there twice. */
function partsOf({ store }: ViewContext, rule: CompiledRollUp, row: Row): Row[] {
  const { down, up } = certain(rule.recursion);
  const children = store.childRows(down, row.id);
  if (!up) return [...children];
  return children.flatMap((child) => {
    const part = child.values[up];
    return typeof part === 'string' ? (store.row(row.type, part) ?? []) : [];
  });
}

function rowView(context: ViewContext, rule: CompiledRollUp, row: Row, depth: number): TreeRow {
  const reader = readerOf(context.model, context.store);
  const alone = {
    ...rule,
    sources: rule.sources.filter(({ isRecursive }) => !isRecursive),
    own: { ...rule.own, standsIn: null, whenNone: null },
  };
  const members = alone.sources.map((source): Members<Row> => {
    const rows = membersOf(context.store, source, row.id);
    return { source, rows: rows === OUTSIDE ? [] : rows, reader: source.isOwn ? OWN_FIELDS : reader };
  });
  const brought = aggregate(alone, members, { at: row, reader });
  const { type } = rule.target;
  const words = (outcome: ReturnType<typeof storedOutcome>) =>
    isError(outcome) ? problemWords(outcome.error) : displayValue(type, outcome.value);
  const { standsIn } = rule.own;
  const standing = standsIn ? reader.value(row, standsIn) : null;
  return {
    ...{ type: row.type, id: row.id, title: titleOf(context.model, row), depth },
    own: brought === OUTSIDE ? 'outside this family' : words(brought.outcome),
    result: words(storedOutcome(row, rule.writes.field)),
    isStandingIn: standing !== null && standing !== OUTSIDE,
  };
}
