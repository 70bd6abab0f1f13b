import { type RecordStore } from '@/core/engine';
import { typeAlong, typeIn } from '@/core/model';
import { type KeptCascade, partsOf, type ReactingCascade } from '@/core/rules';
import { firstIn } from '@/core/values';
import { reachedFrom, recipientView, type RecipientView, type TrialContext } from './cascade-view';
import { watchedOf } from './cascade-trial';
import type { ChangeView, LeftView, RippleView } from './views';

/** Records of a rule of which it is looked up why they stay: a family may have tens of thousands. */
const MOST_LOOKED_AT = 500;

type LeftContext = TrialContext & {
  /** The records as they stood before. */
  readonly before: RecordStore;
};

type AnyCascade = KeptCascade | ReactingCascade;

/** Of each cascade that acted in a ripple, or whose moment came: the records on its way that took nothing. `store` has them as they stand after. */
export function leftAsIs(context: LeftContext, { waves }: Pick<RippleView, 'waves'>): readonly LeftView[] {
  const changes = waves.flatMap((wave) => wave.changes);
  const cascades = context.plan.turns.filter(
    (rule): rule is AnyCascade => rule.kind === 'keptCascade' || rule.kind === 'reactingCascade',
  );
  return cascades.flatMap((rule) => leftBy(context, rule, changes));
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
  if (kinds.size === 0) return [];
  const { name: typeName, plural } = typeIn(model, type);
  return [
    {
      rule: { id: rule.id, name: rule.name, kind: 'cascade', pace: null },
      ...{ type, typeName, plural, more },
      kinds: [...kinds]
        .map(([why, records]) => ({ why, records }))
        .sort((a, b) => b.records.length - a.records.length),
    },
  ];
}

/** The records from which it cascaded, and those of which a change is one that it watches for. */
function sourcesOf(
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
  return standing === 'same' ? 'has it already' : ONLY[only];
}
