import { readerOf, rollUpInMemory, type Row, storedOutcome, titleOf } from '../engine';
import { OUTSIDE, type Reason, reasonsAgainst } from '../expression';
import { typeIn } from '../model';
import {
  aggregateEntry,
  childrenName,
  type CompiledRollUp,
  sentenceOf,
  type Standing,
  standingOf,
} from '../rules';
import { compareText, isError, type Outcome, type ValueType } from '../values';
import { namesIn, problemWords, valueView, type ValueView, type ViewContext } from './views';

/** One record that a roll-up goes over, and what became of it. */
export interface MemberView {
  readonly type: string;
  readonly id: string;
  readonly title: string;
  readonly standing: Standing['kind'];
  /** What it gives or would give; `null` for a count. */
  readonly value: ValueView | null;
  /** Why it doesn't count: each test that left it out, with what was found. */
  readonly reasons: readonly Reason[];
  /** The field that is brought together, when a rule keeps it: it can be opened in turn. */
  readonly opens: string | null;
}

export interface OutcomeView {
  readonly value: ValueView;
  readonly problem: string | null;
}

/** What a kept value is made of. */
export interface Explanation {
  readonly rule: { readonly id: string; readonly name: string; readonly sentence: string };
  readonly record: { readonly type: string; readonly id: string; readonly title: string };
  readonly field: { readonly key: string; readonly name: string };
  readonly children: { readonly type: string; readonly name: string; readonly typeName: string };
  /** The aggregate in words: `sum`. */
  readonly words: string;
  /** Those that count first; a page of them where there are many. */
  readonly members: readonly MemberView[];
  readonly counted: number;
  readonly total: number;
  /** Where the next page of members starts; `null` on the last. */
  readonly next: number | null;
  /** What the rule gives; `null` when part of it lies outside the family. */
  readonly result: OutcomeView | null;
  /** What stands in the record. */
  readonly stored: OutcomeView;
  /** The run that last wrote it, as the ledger has it. */
  readonly writtenBy: { readonly run: string; readonly at: string; readonly person: string | null } | null;
}

/** What of an explanation comes from beyond the members at hand. */
export interface Totals {
  readonly counted: number;
  readonly total: number;
  readonly next: number | null;
  readonly result: Outcome | null;
  readonly writtenBy: Explanation['writtenBy'];
}

/** Opens the value that a roll-up gives for one parent: who counts, who doesn't and why, the result, and what stands there. */
export function explain(context: ViewContext, rule: CompiledRollUp, parent: Row): Explanation {
  const { store } = context;
  const rows = [...store.children(rule.link, parent.id)].map((id) => store.row(rule.link.type, id)!);
  const brought = rollUpInMemory(context.model, store, rule, parent.id);
  const members = rows.map((row) => memberView(context, rule, row)).sort(inOrder);
  return explanationOf(
    { context, rule, parent, members },
    {
      counted: members.filter((member) => member.standing === 'counts').length,
      total: members.length,
      ...{ next: null, writtenBy: null, result: brought === OUTSIDE ? null : brought.outcome },
    },
  );
}

/** The same for some of the members, read in their order, with what is known of all. */
export function explainPage(
  context: ViewContext,
  given: { readonly rule: CompiledRollUp; readonly parent: Row; readonly rows: readonly Row[] },
  totals: Totals,
): Explanation {
  const members = given.rows.map((row) => memberView(context, given.rule, row));
  return explanationOf({ context, rule: given.rule, parent: given.parent, members }, totals);
}

const inOrder = (a: MemberView, b: MemberView): number =>
  Number(b.standing === 'counts') - Number(a.standing === 'counts') || compareText(a.title, b.title);

interface Explained {
  readonly context: ViewContext;
  readonly rule: CompiledRollUp;
  readonly parent: Row;
  readonly members: readonly MemberView[];
}

function explanationOf({ context, rule, parent, members }: Explained, totals: Totals): Explanation {
  const { model } = context;
  return {
    rule: { id: rule.id, name: rule.name, sentence: sentenceOf(model, rule, namesIn(context)) },
    record: { type: parent.type, id: parent.id, title: titleOf(model, parent) },
    field: { key: rule.target.key, name: rule.target.name },
    children: {
      type: rule.link.type,
      name: childrenName(model, rule.link),
      typeName: typeIn(model, rule.link.type).name,
    },
    words: aggregateEntry(rule.aggregate)!.words,
    ...{ members, counted: totals.counted, total: totals.total, next: totals.next },
    result: totals.result && outcomeView(rule.target.type, totals.result),
    stored: outcomeView(rule.target.type, storedOutcome(parent, rule.writes.field)),
    writtenBy: totals.writtenBy,
  };
}

const outcomeView = (type: ValueType, outcome: Outcome): OutcomeView =>
  isError(outcome)
    ? { value: valueView(type, null), problem: problemWords(outcome.error) }
    : { value: valueView(type, outcome.value), problem: null };

function memberView(context: ViewContext, rule: CompiledRollUp, row: Row): MemberView {
  const reader = readerOf(context.model, context.store);
  const standing = standingOf(rule, row, reader);
  const keeper =
    rule.value && rule.value.route.length === 0
      ? context.plan.keeper({ type: row.type, field: rule.value.field })
      : undefined;
  const value = rule.value && reader.value(row, rule.value);
  return {
    ...{ type: row.type, id: row.id, title: titleOf(context.model, row), standing: standing.kind },
    value: rule.value ? valueView(rule.value.type, value === OUTSIDE ? null : value) : null,
    reasons:
      standing.kind === 'leftOut' && rule.condition
        ? reasonsAgainst(context.model, rule.condition, (field) => reader.value(row, field), namesIn(context))
        : [],
    opens: keeper ? keeper.writes.field : null,
  };
}
