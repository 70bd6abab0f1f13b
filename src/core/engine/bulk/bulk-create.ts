import type { CompiledCreate } from '@/core/rules';
import { certain, lastIn } from '@/core/values';
import { type Answer, askSet, type Need } from '@/core/engine/driver/need';
import { recordKey } from '@/core/engine/driver/record';
import type { TouchedInRun } from '@/core/engine/driver/set-need';
import type { Edit } from '@/core/engine/edits/types';
import { makeAfter } from '@/core/engine/propagate';
import { BulkRefused, type BulkState } from './bulk-state';

export interface BulkMaking {
  readonly rule: CompiledCreate;
  /** What the rule meant before the settled day turned in this run. */
  readonly from?: CompiledCreate;
  readonly newId: () => string;
}

/**
 * What a rule makes after a run over many records, and how it looks after what it made, page by page. Of records that the run made only those
 * that meet the condition are looked at. Answers how many it made.
 */
export function* bulkCreate(state: BulkState, making: BulkMaking): Generator<Need, number, Answer> {
  const { rule, from } = making;
  const source = rule.writes.type;
  const types = [...new Set([source, rule.makes, ...rule.reads.map(({ type }) => type)])];
  const seen = new Set<string>();
  let made = 0;
  for (const type of types.filter((one) => state.touched.has(one))) {
    const isSource = type === source;
    const query = {
      ...{ type, watched: null, isGoneTold: isSource },
      made: isSource ? rule : ('none' as const),
    };
    yield* state.pages(query, function* (page) {
      const own = isSource && from ? page.map(({ id }) => id) : [];
      for (const id of own) seen.add(id);
      const ids = from && own.length > 0 ? yield* turned(state, { rule, from }, { among: own }) : [];
      made += yield* makePage(state, making, page, ids);
    });
  }
  if (!from) return made;
  for (let after = ''; ;) {
    const ids = yield* turned(state, { rule, from }, { after });
    yield* askSet<'page'>({ kind: 'page', touched: [] });
    made += yield* makePage(
      state,
      making,
      [],
      ids.filter((id) => !seen.has(id)),
    );
    if (ids.length < state.bounds.page) return made;
    after = lastIn(ids);
  }
}

const turned = (
  state: BulkState,
  rules: { readonly rule: CompiledCreate; readonly from: CompiledCreate },
  which: { readonly among: readonly string[] } | { readonly after: string },
) => askSet<'turned'>({ ...{ kind: 'turned', ...rules, which }, most: state.bounds.page });

function* makePage(
  { model, plan, facts }: BulkState,
  { rule, from, newId }: BulkMaking,
  page: readonly TouchedInRun[],
  ids: readonly string[],
): Generator<Need, number, Answer> {
  if (page.length + ids.length === 0) return 0;
  const edits = page.map(({ type, id, written, after }): Edit => ({
    ...{ kind: 'edit', type, id },
    values: Object.fromEntries(written.map((field) => [field, certain(after).values[field] ?? null])),
  }));
  const touched = new Map(page.map((entry) => [recordKey(entry), entry]));
  const outcome = yield* makeAfter({
    ...{ model, plan, rule, touched, edits, newId, facts },
    ...(from ? { turned: { from, ids } } : {}),
  });
  if (outcome.kind === 'refused') throw new BulkRefused(certain(outcome.problems[0]));
  const isMade = ({ kind, rule: by }: (typeof outcome.ripple.events)[number]) =>
    kind === 'created' && by !== undefined;
  return outcome.ripple.events.filter(isMade).length;
}
