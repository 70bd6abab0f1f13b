import { readerOf, type Row, titleOf } from '@/core/engine';
import { evaluatorOf, Failure, OUTSIDE, reasonsAgainst, type TypedField } from '@/core/expression';
import { typeAlong } from '@/core/model';
import {
  aggregateEntry,
  type CompiledRollUp,
  type CompiledSource,
  extremumOf,
  type Reader,
  type Contribution,
  contributionOf,
} from '@/core/rules';
import { displayValue, isMoney, itemAt, lastIn, type Value } from '@/core/values';
import { namesIn, problemWords, valueView, type ViewContext } from './views';
import type { SourceRows } from './explanation';
import type { MemberView } from './explanation';

export function memberViews(
  context: ViewContext,
  {
    rule,
    source: at,
    rows,
    leader,
  }: SourceRows & { readonly rule: CompiledRollUp; readonly leader: string | undefined },
): MemberView[] {
  const reader = readerOf(context.model, context.store);
  const source = itemAt(rule.sources, at);
  const seen = new Set<Value>();
  const isBehind = (row: Row, standing: Contribution['kind']) =>
    leader !== undefined && (standing === 'counts' || standing === 'empty') && row.id !== leader;
  return rows.map((row) => {
    const standing = contributionOf(rule, source, row, reader);
    const end = source.once && standing.kind === 'counts' ? reader.value(row, source.once) : null;
    const isAgain = typeof end === 'string' && seen.has(end);
    if (typeof end === 'string') seen.add(end);
    const shown = endOf(context, source, row);
    const value = source.value && evaluatorOf(source.value)(row, reader.given, reader.beneath);
    const known = value === OUTSIDE || value instanceof Failure ? null : value;
    return {
      ...{ type: shown.type, id: shown.id, title: shown.title, through: shown.through, source: at },
      standing: isAgain ? 'again' : isBehind(row, standing.kind) ? 'behind' : standing.kind,
      order:
        source.order.length === 0
          ? null
          : source.order.map((field) => orderWords(reader, field, row)).join(', '),
      value: source.value ? valueView(source.value.type, known) : null,
      exchanged: exchangedWords(source, row, reader),
      problem: standing.kind === 'error' && value instanceof Failure ? problemWords(value.code) : null,
      reasons:
        standing.kind === 'leftOut' && source.condition
          ? reasonsAgainst(
              context.model,
              source.condition,
              (field) => reader.given(row, field),
              namesIn(context),
            )
          : [],
      opens: opens(context, source, shown.type),
    };
  });
}

/** An amount before it was brought into another currency. */
function exchangedWords({ value }: CompiledSource, row: Row, reader: Reader<Row>): string | null {
  if (value?.kind !== 'exchange') return null;
  const amount = evaluatorOf(value.amount)(row, reader.given, reader.beneath);
  if (amount === OUTSIDE || amount instanceof Failure || !isMoney(amount)) return null;
  const { currency } = value.type as { currency: string };
  return amount.currency === currency ? null : displayValue(value.amount.type, amount);
}

/** The record that leads by the rule's order among those at hand; `undefined` where the rule asks for no order. */
export function leaderIn(
  { model, store }: ViewContext,
  rule: CompiledRollUp,
  pages: readonly SourceRows[],
): string | undefined {
  if (!aggregateEntry(rule.aggregate).isOrdered) return undefined;
  const reader = readerOf(model, store);
  const members = pages.map(({ source, rows }) => ({ source: itemAt(rule.sources, source), rows, reader }));
  const found = extremumOf(rule, members);
  return found && typeof found === 'object' ? found.id : '';
}

function orderWords(reader: Reader<Row>, field: TypedField, row: Row): string {
  const value = reader.value(row, field);
  return displayValue(field.type, value === OUTSIDE || value instanceof Failure ? null : value);
}

/** The field to open where a rule keeps what is brought together, on the record that is shown. */
export function opens({ plan }: ViewContext, { value }: CompiledSource, shown: string): string | null {
  if (value?.kind !== 'field' || value.owner !== shown) return null;
  return plan.keeper({ type: value.owner, field: value.field })?.writes.field ?? null;
}

/** The record that stands for a member: over a bridge the one at its far end. */
function endOf(
  { model, store, names }: ViewContext,
  { definition, route, type }: CompiledSource,
  row: Row,
): Pick<MemberView, 'type' | 'id' | 'title' | 'through'> {
  const up = definition.route.slice(route.length);
  let at: Row = row;
  for (const [index, step] of up.entries()) {
    const id = at.values[step.link];
    const next = typeAlong(model, type, up.slice(0, index + 1));
    if (typeof id !== 'string') break;
    const found = store.row(next, id);
    if (!found) return { type: next, id, title: names[id] ?? id, through: titleOf(model, row) };
    at = found;
  }
  const title = titleOf(model, at);
  if (at !== row) return { type: at.type, id: at.id, title, through: titleOf(model, row) };
  const last = lastIn(route);
  const above = route.length > 1 ? row.values[last.link] : null;
  const parent =
    typeof above === 'string' ? store.row(itemAt(route, route.length - 2).type, above) : undefined;
  const through =
    typeof above === 'string' ? (parent ? titleOf(model, parent) : (names[above] ?? null)) : null;
  return { type: at.type, id: at.id, title, through };
}
