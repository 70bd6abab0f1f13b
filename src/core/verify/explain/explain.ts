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
import { describeField, evaluatorOf, OUTSIDE, type TypedField, type NameOf } from '@/core/expression';
import { typeAlong, typeIn } from '@/core/model';
import { planAlone } from '@/core/plan';
import {
  aggregateEntry,
  type CompiledAlone,
  type CompiledRollUp,
  type CompiledRule,
  type CompiledMap,
  givingResult,
  NONE,
  OTHERWISE,
  rowOf,
  sentenceOf,
  sourceName,
  testWords,
} from '@/core/rules';
import {
  certain,
  compareText,
  displayResult,
  displayValue,
  isError,
  itemAt,
  type Outcome,
  type Value,
  type ValueType,
} from '@/core/values';
import { formulaView } from './formula-view';
import { type Tree, treeOf } from './tree';
import { namesIn, problemWords, valueView, type ViewContext } from './views';
import { leaderIn, memberViews } from './member-views';
import type {
  Explanation,
  MapView,
  MemberView,
  OutcomeView,
  OwnView,
  SourceRows,
  SourceView,
  Totals,
} from './explanation';

/** Opens the value that a roll-up gives for one parent: who counts, who doesn't and why, the result, and what stands there. */
export function explain(given: ViewContext, rule: CompiledRule, parent: Row): Explanation {
  if (rule.kind === 'reactingCascade')
    throw new Error('What is cascaded when something changes has no value to open.');
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
