import { OUTSIDE } from '@/core/expression';
import { assignedReads, assignedOutcome } from '@/core/rules';
import { compareText, isError } from '@/core/values';
import { affectedTargets, isThere } from '@/core/engine/reach/affected';
import { defaultsOf } from '@/core/engine/edits/read-edits';
import { ask, type Answer, type Made, type Need } from '@/core/engine/driver/need';
import { emptyRow, type Row, rowWith } from '@/core/engine/driver/record';
import { RouteReader } from '@/core/engine/reach/route-reader';
import type { MakingInput } from '@/core/engine/create/making';
import { isInTouch } from '@/core/engine/create/making';

export interface ClaimsOfCreate {
  readonly sources: readonly string[];
  readonly made: readonly string[];
  /** What it may make, under ids of no account. */
  readonly new: readonly Row[];
}

/** More than is made in the end, never less, as long as links stay: each record that the run reaches is taken to come to meet it. */
export function* claimsOfCreate(input: MakingInput): Generator<Need, ClaimsOfCreate, Answer> {
  const { model, plan, rule, touched, rowsOf, facts, asked } = input;
  const { targets } = yield* affectedTargets(model, rule, touched);
  const gone = [...touched.values()].filter(
    ({ type, before, after }) => type === rule.writes.type && isThere(before) && !isThere(after),
  );
  const sources = [...new Set([...targets.keys(), ...gone.map(({ id }) => id), ...asked])].sort(compareText);
  const edited = [...touched.values()].filter(({ type, before }) => type === rule.makes && isThere(before));
  const known: Made[] = [];
  if (sources.length > 0)
    known.push(...(yield* ask<'made'>({ kind: 'made', rule, by: 'source', ids: sources })));
  if (edited.length > 0 && isInTouch(rule))
    known.push(...(yield* ask<'made'>({ kind: 'made', rule, by: 'made', ids: edited.map(({ id }) => id) })));
  const rows = yield* rowsOf(rule.writes.type, sources);
  const reader = new RouteReader(model, rowsOf);
  yield* reader.load([...rows.values()], assignedReads(rule.assigned));
  const made = new Map<string, Row>();
  for (const row of rows.values()) {
    const values = defaultsOf(model, plan, rule.makes);
    for (const one of rule.assigned) {
      const outcome = assignedOutcome(one, { now: row, before: row, facts }, reader.read);
      if (outcome !== OUTSIDE && !isError(outcome)) values[one.target.key] = outcome.value;
    }
    if (rule.definition.back !== null) values[rule.definition.back] = row.id;
    const none = emptyRow(model, { type: rule.makes, id: row.id });
    made.set(row.id, rowWith(none, { ...none.values, ...values }));
  }
  return {
    sources: [...new Set([...sources, ...known.map(({ source }) => source)])],
    made: [...new Set(known.map((one) => one.made))],
    new: [...made.values()],
  };
}
