import { grouped } from '@/core/grouped';
import type { Touched } from '@/core/engine';
import { typeAlong, typeIn } from '@/core/model';
import { type AnyCompiled, type KeptCascade, partsOf, type ReactingCascade } from '@/core/rules';
import { firstIn } from '@/core/values';
import { reachedFrom, recipientView, type RecipientView } from './cascade-view';
import { watchedOf } from './cascade-trial';
import { type KeptAlone, leftByKept, type LeftContext, touchedIn } from './left-kept';
import type { ChangeView, LeftKind, LeftView, RippleView } from './views';

/** Records of a rule of which it is looked up why they stay: a family may have tens of thousands. */
const MOST_LOOKED_AT = 500;

type AnyCascade = KeptCascade | ReactingCascade;

/**
 * What rules looked at in a ripple and left: of each cascade that acted, or whose moment came, the records on its way that took nothing; of each other rule
 * those that it worked out again, and that are as they were. `store` has them as they stand after.
 */
export function leftAsIs(context: LeftContext, { waves }: Pick<RippleView, 'waves'>): readonly LeftView[] {
  const changes = waves.flatMap((wave) => wave.changes);
  const touched = touchedIn(context, changes);
  return [...grouped(context.plan.turns, ({ id }) => id).values()].flatMap((parts): LeftView[] => {
    const alone = parts.filter(isAloneOrRollUp);
    const cascades = parts.filter(isCascade);
    return [
      ...(alone.length > 0 ? leftKept(context, alone, changes, touched) : []),
      ...cascades.flatMap((rule) => leftBy(context, rule, changes)),
    ];
  });
}

export const isCascade = (rule: AnyCompiled): rule is AnyCascade =>
  rule.kind === 'keptCascade' || rule.kind === 'reactingCascade';

const isAloneOrRollUp = (rule: AnyCompiled): rule is KeptAlone =>
  rule.kind === 'rollUp' || rule.kind === 'formula' || rule.kind === 'linked';

function leftKept(
  context: LeftContext,
  parts: readonly KeptAlone[],
  changes: readonly ChangeView[],
  touched: ReadonlyMap<string, Touched>,
): LeftView[] {
  const all = leftByKept(context, parts, changes, touched);
  const rule = firstIn(parts);
  const kinds = grouped(all.slice(0, MOST_LOOKED_AT), ({ why }) => why);
  const kind = rule.kind === 'linked' ? 'link' : rule.kind;
  return leftView(context, { rule, kind, type: rule.writes.type }, kinds, all.length - MOST_LOOKED_AT);
}

interface LeftRule {
  readonly rule: { readonly id: string; readonly name: string };
  readonly kind: LeftView['rule']['kind'];
  /** Of the records. */
  readonly type: string;
}

/** Alike in why, the most first; nothing where nothing was left. */
function leftView(
  { model }: LeftContext,
  { rule, kind, type }: LeftRule,
  kinds: ReadonlyMap<string, readonly LeftKind['records'][number][]>,
  more: number,
): LeftView[] {
  if (kinds.size === 0) return [];
  const { name: typeName, plural } = typeIn(model, type);
  return [
    {
      rule: { id: rule.id, name: rule.name, kind, pace: null },
      ...{ type, typeName, plural, more: Math.max(0, more) },
      kinds: [...kinds]
        .map(([why, records]) => ({ why, records: records.map(({ id, title }) => ({ id, title })) }))
        .sort((a, b) => b.records.length - a.records.length),
    },
  ];
}

function leftBy(context: LeftContext, rule: AnyCascade, changes: readonly ChangeView[]): LeftView[] {
  const { model, store } = context;
  const { definition } = rule;
  const type = typeAlong(model, definition.type, definition.route);
  const parts = partsOf(rule) as readonly AnyCascade[];
  const written = new Set(parts.map(({ target }) => target.key));
  // Whoever wrote there: what changed isn't left as it is.
  const changed = new Set(
    changes
      .filter((one) => one.type === type && (one.field === '' || written.has(one.field)))
      .map(({ id }) => id),
  );
  const seen = new Set<string>();
  const kinds = new Map<string, { id: string; title: string }[]>();
  let more = 0;
  for (const source of sourcesOf(context, rule, changes)) {
    const [now, was] = [store.row(definition.type, source), context.before.row(definition.type, source)];
    if (!now) continue;
    for (const id of reachedFrom(model, store, definition, source)) {
      if (changed.has(id) || seen.has(id) || (definition.route.length > 0 && id === source)) continue;
      seen.add(id);
      const row = store.row(type, id);
      if (!row) continue;
      if (seen.size > MOST_LOOKED_AT) {
        more += 1;
        continue;
      }
      const found = recipientView(
        context,
        parts,
        context.before.row(type, id),
        row,
        { source: now, before: was ?? now },
        store,
      );
      const why = whyLeft(found, definition.only);
      const kind = kinds.get(why);
      if (kind) kind.push({ id, title: found.title });
      else kinds.set(why, [{ id, title: found.title }]);
    }
  }
  return leftView(context, { rule, kind: 'cascade', type }, kinds, more);
}

/** The records from which it cascaded, and those of which a change is one that it watches for. */
export function sourcesOf(
  { model }: LeftContext,
  rule: AnyCascade,
  changes: readonly ChangeView[],
): ReadonlySet<string> {
  const { type } = rule.definition;
  const own = changes.filter((one) => one.rule?.id === rule.id).flatMap(({ causes }) => causes);
  const watched = watchedOf(model, rule).map(({ key }) => key);
  const isWatched = ({ field, after }: ChangeView) =>
    rule.kind === 'keptCascade' || rule.moment.kind !== 'onChange'
      ? watched.includes(field)
      : rule.moment.tests.some(
          (test) =>
            test.field.key === field &&
            (test.kind === 'changed' || (test.kind === 'became' && test.value === after?.wire)),
        );
  return new Set(
    [
      ...own.filter((one) => one.type === type),
      ...changes.filter((one) => one.type === type && isWatched(one)),
    ].map(({ id }) => id),
  );
}

const ONLY = {
  all: 'stays as it is',
  empty: 'holds something already',
  oldValue: 'doesn’t hold the value from before',
} as const;

function whyLeft({ standing, reasons }: RecipientView, only: keyof typeof ONLY = 'all'): string {
  if (standing === 'leftOut') {
    const { test, found } = firstIn(reasons);
    return `fails “${test}”: here ${found}`;
  }
  if (standing === 'overruled') return 'another comes first by the rule’s order';
  return standing === 'same' ? 'has it already' : ONLY[only];
}
