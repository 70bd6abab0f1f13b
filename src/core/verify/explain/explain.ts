import {
  finderOf,
  outcomeAlone,
  membersOf,
  Overlay,
  propagate,
  readerOf,
  type RecordStore,
  rollUpInMemory,
  type Row,
  runInMemory,
  storedOutcome,
  titleOf,
} from '@/core/engine';
import {
  describeField,
  evaluatorOf,
  Failure,
  OUTSIDE,
  type Reason,
  reasonsAgainst,
  type TypedField,
  type NameOf,
} from '@/core/expression';
import { typeAlong, typeIn } from '@/core/model';
import { planAlone } from '@/core/plan';
import {
  aggregateEntry,
  type CompiledAlone,
  type CompiledRollUp,
  type CompiledRule,
  type CompiledSource,
  type CompiledMap,
  givingResult,
  extremumOf,
  NONE,
  OTHERWISE,
  type Reader,
  rowOf,
  sentenceOf,
  sourceName,
  type Contribution,
  contributionOf,
  testWords,
} from '@/core/rules';
import {
  certain,
  compareText,
  displayResult,
  displayValue,
  isError,
  isMoney,
  itemAt,
  lastIn,
  type Outcome,
  type Value,
  type ValueType,
} from '@/core/values';
import { type FormulaView, formulaView } from './formula-view';
import { type Tree, treeOf } from './tree';
import { namesIn, problemWords, valueView, type ValueView, type ViewContext } from './views';

/** One record that a roll-up goes over, and what became of it. */
export interface MemberView {
  /** The record at the far end of a bridge, where the rule goes over one; else the lowest of the route. */
  readonly type: string;
  readonly id: string;
  readonly title: string;
  /** Which of the rule's sources it comes from. */
  readonly source: number;
  /** The record through which it was reached, where there is one between: a loan's title, or the bridge's. */
  readonly through: string | null;
  /** `again`: it was reached before over a bridge, and counts once. `behind`: another one leads by the order. */
  readonly standing: Contribution['kind'] | 'again' | 'behind';
  /** By what it is put in order, in words; `null` where the rule asks for no order. */
  readonly order: string | null;
  /** What it gives or would give; `null` for a count. */
  readonly value: ValueView | null;
  /** What it gives in its own currency, where that was exchanged; `null` otherwise. */
  readonly exchanged: string | null;
  /** Why what it gives can't be worked out, where that can be told. */
  readonly problem: string | null;
  /** Why it doesn't count: each test that left it out, with what was found. */
  readonly reasons: readonly Reason[];
  /** The field that is brought together, when a rule keeps it: it can be opened in turn. */
  readonly opens: string | null;
}

/** Records that a roll-up goes over: those of one route. */
export interface SourceView {
  readonly type: string;
  /** What the record calls them (`Loans`), over several links `Artefacts of its Loans`. */
  readonly name: string;
  readonly typeName: string;
  readonly counted: number;
  readonly total: number;
}

/** A value of the record itself that takes part. */
export interface OwnView {
  readonly role: 'adds' | 'standsIn' | 'whenNone';
  readonly name: string;
  readonly value: ValueView;
  /** Whether it is in the result: what stands in or when none count may be empty, or not be asked. */
  readonly isUsed: boolean;
}

export interface OutcomeView {
  readonly value: ValueView;
  readonly problem: string | null;
}

/** From the result to what is written. */
export interface MapView {
  /** The result itself; `null` where part of it lies outside the family. */
  readonly given: OutcomeView | null;
  /** Each row of the map, what stands otherwise and when none count: at most one is chosen. */
  readonly rows: readonly { readonly when: string; readonly writes: string; readonly isChosen: boolean }[];
  /** Whether the rule acts only when its result changes. */
  readonly isReacting: boolean;
  /** Whether a rule that reacts applies to this record as it stands; `null` where that can't be told. */
  readonly applies: boolean | null;
}

/** What a kept value is made of. */
export interface Explanation {
  readonly rule: { readonly id: string; readonly name: string; readonly sentence: string };
  readonly record: { readonly type: string; readonly id: string; readonly title: string };
  readonly field: { readonly key: string; readonly name: string };
  /** Which records it goes over; all its members come from these. */
  readonly sources: readonly SourceView[];
  readonly own: readonly OwnView[];
  /** The aggregate in words: `sum`. */
  readonly words: string;
  /** Those that count first; a page of them where there are many. */
  readonly members: readonly MemberView[];
  readonly counted: number;
  readonly total: number;
  /** Where the next page of members starts; `null` on the last. */
  readonly next: number | null;
  /** Of a formula: what its pieces come to. */
  readonly formula: FormulaView | null;
  /** Where the rule goes all the way down: the way down, as far as it is at hand. */
  readonly tree: Tree | null;
  /** Where the rule writes something else than its result. */
  readonly map: MapView | null;
  /** What is taken of the same record besides, as far as the family tells. */
  readonly together: readonly { readonly name: string; readonly text: string }[];
  /** What the rule gives, of one that reacts what would stand if it acted now; `null` when part of it lies outside the family. */
  readonly result: OutcomeView | null;
  /** What stands in the record. */
  readonly stored: OutcomeView;
  /** The run that last wrote it, as the ledger has it. */
  readonly writtenBy: { readonly run: string; readonly at: string; readonly person: string | null } | null;
}

/** What of an explanation comes from beyond the members at hand; how many count and how many there are, for each source. */
export interface Totals {
  readonly sources: readonly { readonly counted: number; readonly total: number }[];
  readonly next: number | null;
  /** The result, before a map says what is written for it. */
  readonly result: Outcome | null;
  readonly writtenBy: Explanation['writtenBy'];
}

/** Records of one of a rule's sources. */
export interface SourceRows {
  readonly source: number;
  readonly rows: readonly Row[];
}

/** Opens the value that a roll-up gives for one parent: who counts, who doesn't and why, the result, and what stands there. */
export function explain(given: ViewContext, rule: CompiledRule, parent: Row): Explanation {
  if (rule.kind === 'reactingCascade')
    throw new Error('What is handed on when something changes has no value to open.');
  if (rule.kind !== 'rollUp') {
    const looking = { reader: readerOf(given.model, given.store), finder: finderOf(given.store) };
    const outcome = outcomeAlone(rule, parent, looking);
    const result = outcome === OUTSIDE ? null : outcome;
    return explainFormula(given, { rule, parent }, { sources: [], next: null, result, writtenBy: null });
  }
  const { store, isOutside, problem } = workedOutBeneath(given, rule, parent);
  const context = { ...given, store };
  const asked = rule.map ? givingResult(rule) : rule;
  const brought = isOutside ? OUTSIDE : rollUpInMemory(context.model, store, asked, parent);
  const found = rule.sources.map((source, at) => {
    const rows = membersOf(store, source, parent.id);
    return { source: at, rows: rows === OUTSIDE ? [] : rows };
  });
  const leader = leaderIn(context, rule, found);
  const groups = found.map((page) => {
    const given = { rule, ...page, leader };
    return memberViews(context, given).sort(inOrder);
  });
  const root = certain(store.row(parent.type, parent.id));
  const together = rule.together.map((one) => {
    const taken = rollUpInMemory(context.model, store, one, root);
    const outcome = taken === OUTSIDE ? null : taken.outcome;
    const known = outcome && !isError(outcome) ? outcome.value : null;
    const text =
      taken === OUTSIDE ? 'outside this family' : displayValue(one.target.type, known, namesIn(context));
    return { name: one.target.name, text };
  });
  return explanationOf(
    {
      context,
      rule,
      parent,
      members: groups.flat(),
      tree: problem ? null : treeOf(context, rule, root),
      together,
    },
    {
      sources: groups.map((members) => ({
        counted: members.filter((member) => member.standing === 'counts').length,
        total: members.length,
      })),
      ...{ next: null, writtenBy: null, result: brought === OUTSIDE ? null : brought.outcome },
    },
  );
}

/** Opens the value of a formula: what each piece of it comes to. */
export function explainFormula(
  context: ViewContext,
  { rule, parent }: { readonly rule: CompiledAlone; readonly parent: Row },
  totals: Totals,
): Explanation {
  return {
    ...headOf(context, rule, parent, totals),
    ...{
      sources: [],
      own: [],
      words: '',
      tree: null,
      map: null,
      together: [],
      members: [],
      counted: 0,
      total: 0,
    },
    formula: formulaView(context, rule, parent),
  };
}

/** The same for some of the members, read in their order, with what is known of all. */
export function explainPage(
  context: ViewContext,
  given: { readonly rule: CompiledRollUp; readonly parent: Row; readonly pages: readonly SourceRows[] },
  totals: Totals,
): Explanation {
  const { rule, parent } = given;
  const leader = leaderIn(context, rule, given.pages);
  const members = given.pages.flatMap((page) => memberViews(context, { rule, ...page, leader }));
  return explanationOf({ context, rule, parent, members, tree: null, together: [] }, totals);
}

interface Beneath {
  readonly store: RecordStore;
  /** Whether what the rule gives depends on records that aren't here. */
  readonly isOutside: boolean;
  /** Why it can't be worked out at all: a loop. */
  readonly problem: string | null;
}

/**
 * A rule that goes all the way down reads what it gives further down: so it is worked out there first, over the records as they stand
 * otherwise. What it gave when it was last live, or never, doesn't matter.
 */
function workedOutBeneath({ model, store }: ViewContext, rule: CompiledRollUp, parent: Row): Beneath {
  if (!rule.recursion) return { store, isOutside: false, problem: null };
  const overlay = new Overlay(model, store);
  const plan = planAlone([rule]);
  const input = { model, plan, edits: [], fill: [rule.id], isAlone: true, isEveryPace: true };
  const outcome = runInMemory(model, overlay, propagate(input));
  if (outcome.kind === 'refused')
    return { store, isOutside: true, problem: outcome.problems[0]?.message ?? '' };
  const isOutside = outcome.ripple.outside.some(({ id }) => id === parent.id);
  return { store: overlay, isOutside, problem: null };
}

const inOrder = (a: MemberView, b: MemberView): number =>
  Number(b.standing === 'counts') - Number(a.standing === 'counts') || compareText(a.title, b.title);

interface Explained {
  readonly context: ViewContext;
  readonly rule: CompiledRollUp;
  readonly parent: Row;
  readonly members: readonly MemberView[];
  readonly tree: Tree | null;
  readonly together: Explanation['together'];
}

function explanationOf(
  { context, rule, parent, members, tree, together }: Explained,
  totals: Totals,
): Explanation {
  const { model } = context;
  const sources = rule.sources.map((source, at): SourceView => {
    const type = typeAlong(model, rule.writes.type, source.definition.route);
    return {
      ...{ type, name: sourceName(model, rule, source), typeName: typeIn(model, type).name },
      ...itemAt(totals.sources, at),
    };
  });
  const sum = (of: 'counted' | 'total') => sources.reduce((all, source) => all + source[of], 0);
  const own = ownViews(context, rule, parent, sum('counted'));
  const isNone = sum('counted') === 0 && !own.some(({ isUsed }) => isUsed);
  const written = rule.map
    ? writtenView({ context, rule, map: rule.map, parent, isNone }, totals.result)
    : { map: null, result: totals.result };
  return {
    ...headOf(context, rule, parent, { ...totals, result: written.result }),
    ...{ sources, own, map: written.map },
    words: aggregateEntry(rule.aggregate).words,
    ...{ tree, members, together, counted: sum('counted'), total: sum('total'), formula: null },
  };
}

/** What an explanation says of every rule. */
const headOf = (context: ViewContext, rule: CompiledRule, parent: Row, totals: Totals) => ({
  rule: { id: rule.id, name: rule.name, sentence: sentenceOf(context.model, rule, namesIn(context)) },
  record: { type: parent.type, id: parent.id, title: titleOf(context.model, parent) },
  field: { key: rule.target.key, name: rule.target.name },
  result: totals.result && outcomeView(rule.target.type, totals.result, namesIn(context)),
  stored: outcomeView(rule.target.type, storedOutcome(parent, rule.writes.field), namesIn(context)),
  ...{ next: totals.next, writtenBy: totals.writtenBy },
});

interface Written {
  readonly context: ViewContext;
  readonly rule: CompiledRollUp;
  readonly map: CompiledMap;
  readonly parent: Row;
  /** Nothing counts. */
  readonly isNone: boolean;
}

/** What is written for a result, and all that would be for others. */
function writtenView(
  { context, rule, map, parent, isNone }: Written,
  given: Outcome | null,
): { readonly map: MapView; readonly result: Outcome | null } {
  const { target, resultType, writes } = rule;
  const isReacting = map.otherwise === 'asItIs';
  const row = given === null || isError(given) ? null : isNone ? NONE : rowOf(rule, map, given.value);
  const view = (when: string, value: Value | undefined, isChosen: boolean) => ({
    ...{ when, isChosen },
    writes:
      value === undefined ? 'left as it is' : value === null ? 'empty' : displayValue(target.type, value),
  });
  const otherwise = map.otherwise === 'asItIs' ? undefined : map.otherwise.value;
  const none = isReacting && rule.whenNone === null ? undefined : rule.whenNone;
  const rows = [
    ...map.rows.map(({ test, writes: written }, at) =>
      view(`when ${testWords(test, resultType)}`, written, row === at),
    ),
    view('otherwise', otherwise, row === OTHERWISE),
    view('when none count', none, row === NONE),
  ];
  const wanted =
    row === null
      ? undefined
      : row === NONE
        ? none
        : row === OTHERWISE
          ? otherwise
          : itemAt(map.rows, row).writes;
  const applies = isReacting ? appliesTo(context, rule, parent) : true;
  const stands =
    wanted === undefined || applies !== true ? storedOutcome(parent, writes.field) : { value: wanted };
  return {
    map: { given: given && givenView(resultType, given), rows, isReacting, applies },
    result: given === null || isError(given) ? given : stands,
  };
}

/** A result as people read it, which may have more places than any field. */
const givenView = (type: ValueType, outcome: Outcome): OutcomeView => {
  const view = outcomeView(type, outcome);
  const text = isError(outcome) ? view.value.text : displayResult(type, outcome.value);
  return { ...view, value: { ...view.value, text } };
};

/** Whether a rule that reacts applies to a record as it stands. */
function appliesTo(
  { model, store }: ViewContext,
  { appliesWhen }: CompiledRollUp,
  parent: Row,
): boolean | null {
  if (!appliesWhen) return true;
  const reader = readerOf(model, store);
  const verdict = evaluatorOf(appliesWhen)(parent, reader.given, reader.beneath);
  return typeof verdict === 'boolean' ? verdict : null;
}

const outcomeView = (type: ValueType, outcome: Outcome, nameOf?: NameOf): OutcomeView =>
  isError(outcome)
    ? { value: valueView(type, null), problem: problemWords(outcome.error) }
    : { value: valueView(type, outcome.value, nameOf), problem: null };

/** What the record itself gives. */
function ownViews(context: ViewContext, rule: CompiledRollUp, parent: Row, counted: number): OwnView[] {
  const reader = readerOf(context.model, context.store);
  const { adds, standsIn, whenNone } = rule.own;
  const view = (role: OwnView['role'], field: TypedField | null, isAsked: boolean): OwnView[] => {
    if (!field) return [];
    const value = reader.value(parent, field);
    const known = value === OUTSIDE ? null : value;
    const name = describeField(context.model, field);
    const isUsed = isAsked && known !== null;
    return [{ role, name, value: valueView(field.type, known, namesIn(context)), isUsed }];
  };
  const standing = view('standsIn', standsIn, true);
  const isOpen = !standing.some(({ isUsed }) => isUsed);
  const added = view('adds', adds, isOpen);
  const isNone = isOpen && counted === 0 && !added.some(({ isUsed }) => isUsed);
  return [...standing, ...added, ...view('whenNone', whenNone, isNone)];
}

function memberViews(
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
function leaderIn(
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
function opens({ plan }: ViewContext, { value }: CompiledSource, shown: string): string | null {
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
