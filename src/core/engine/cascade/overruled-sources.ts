import { Failure, fieldsRead, OUTSIDE, type Typed } from '@/core/expression';
import type { Model } from '@/core/model';
import { type FromSeveral, type KeptCascade, writtenFrom } from '@/core/rules';
import { isError } from '@/core/values';
import { type Affected, isThere } from '@/core/engine/reach/affected';
import { BOUNDS } from '@/core/engine/reach/bounds';
import { type RowsOf, RouteReader } from '@/core/engine/reach/route-reader';
import type { Answer, Need } from '@/core/engine/driver/need';
import { recordKey, sameOutcome, storedOutcome, type Row, type Touched } from '@/core/engine/driver/record';
import type { Overruled } from '@/core/engine/driver/ripple';
import { haveSame, worked } from './cascade-input';
import { alongUpTo } from './cascade-reach';

interface Given {
  readonly model: Model;
  readonly rule: KeptCascade & { readonly several: FromSeveral };
  readonly touched: ReadonlyMap<string, Touched>;
  readonly rowsOf: RowsOf;
}

/**
 * Of records that a run changed and that cascade to others, kept in step: what they would give where another comes first. Told where it
 * isn't what stands there now; of a run that reaches very many records, nothing.
 */
export function* overruledSources(
  { model, rule, touched, rowsOf }: Given,
  targets: Affected['targets'],
): Generator<Need, Overruled[], Answer> {
  const { several, definition, writes } = rule;
  const sources = new Map<string, Row>();
  for (const causes of targets.values())
    for (const { type, id } of causes) {
      const after = type === definition.type ? (touched.get(recordKey({ type, id }))?.after ?? null) : null;
      if (isThere(after)) sources.set(id, after);
    }
  if (sources.size === 0) return [];
  const way = { source: definition.type, route: definition.route };
  const reached = yield* alongUpTo(model, way, sources.keys(), { rowsOf, most: BOUNDS.mostByRow });
  if (!reached) return [];
  const reader = new RouteReader(model, rowsOf);
  const { value, given, condition, same } = several;
  yield* reader.load([...sources.values()], [value, ...(given ? [given] : [])].flatMap(fieldsRead));
  const rows = yield* rowsOf(
    writes.type,
    [...reached.keys()].filter((id) => targets.has(id)),
  );
  if (condition) yield* reader.load([...rows.values()], fieldsRead(condition));
  const holds = (node: Typed | null, row: Row) => node === null || worked(node, row, reader) === true;
  const isFrom = (source: Row, row: Row) =>
    !(source.id === row.id && source.type === row.type) &&
    holds(given, source) &&
    haveSame(same, source, row);
  const overruled: Overruled[] = [];
  for (const row of rows.values()) {
    if (row.deleted || !holds(condition, row)) continue;
    const stands = storedOutcome(row, writes.field);
    for (const id of [...(reached.get(row.id) ?? [])].sort()) {
      const source = sources.get(id);
      if (!source || !isFrom(source, row)) continue;
      const gives = worked(value, source, reader);
      if (gives === OUTSIDE || gives instanceof Failure) continue;
      const outcome = writtenFrom(rule, gives);
      if (isError(outcome) || sameOutcome(outcome, stands)) continue;
      overruled.push({ ...writes, id: row.id, rule: rule.id, value: outcome.value, by: rule.id });
    }
  }
  return overruled;
}
