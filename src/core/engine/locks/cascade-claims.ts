import { fieldsRead } from '@/core/expression';
import { type Model } from '@/core/model';
import { type ReactingCascade, type FieldRef } from '@/core/rules';
import { certain, firstIn } from '@/core/values';
import { isThere } from '@/core/engine/reach/affected';
import type { Touched } from '@/core/engine/driver/record';
import { type Answer, type Need } from '@/core/engine/driver/need';
import { recordKey, type RecordRef, type Row } from '@/core/engine/driver/record';
import { RouteReader } from '@/core/engine/reach/route-reader';
import {
  alongUpTo,
  besideOf,
  type Climber,
  typeAt,
  walkDown,
  walkUp,
} from '@/core/engine/cascade/cascade-reach';
import { readOnSource } from '@/core/engine/cascade/cascade-input';
import { goesToMany } from '@/core/engine/cascade/cascade-firing';
import type { CascadeInput } from '@/core/engine/cascade/cascade-input';

/** What a rule that acts on changes may read and write in a run, for taking locks. */
export interface ClaimsOfCascade {
  readonly recipients: readonly string[];
  /** Records whose fields it relies on, at the ends of the ways up that it reads. */
  readonly read: readonly RecordRef[];
  /** So many beneath these may take something that they aren't told one by one; `null` where they are. */
  readonly manyOf: readonly string[] | null;
  /** How many they reach, where that is known. */
  readonly records: number | null;
}

/** More than is cascaded in the end, never less, as long as links stay: each field that a touched record names is taken as changed. */
export function* claimsOfCascade({
  model,
  rule,
  touched,
  rowsOf,
  mostByRow = null,
}: Omit<CascadeInput, 'facts'>): Generator<Need, ClaimsOfCascade, Answer> {
  const { type } = rule.writes;
  const watched = watchedBy(model, rule);
  const starts = [...touched.values()].filter(
    (entry) =>
      isThere(entry.after) &&
      watched.some(
        (ref) => ref.type === entry.type && (!isThere(entry.before) || entry.fields.has(ref.field)),
      ),
  );
  const read = new Map<string, RecordRef>();
  const note = (ref: RecordRef) => void read.set(recordKey(ref), { type: ref.type, id: ref.id });
  const recipients = new Set<string>();
  const sources: Row[] = [];
  if (rule.moment.kind === 'onChange') {
    const ids = starts.map(({ id }) => id);
    const most = goesToMany(rule) ? mostByRow : null;
    const reached = yield* alongUpTo(model, rule, ids, { rowsOf, most });
    if (!reached) return { recipients: [], read: [], manyOf: ids, records: null };
    if (mostByRow !== null && reached.size > mostByRow)
      return { recipients: [], read: [], manyOf: ids, records: reached.size };
    for (const id of reached.keys()) recipients.add(id);
    for (const { after } of starts) sources.push(certain(after));
  } else if (rule.moment.isBeside) {
    for (const entry of starts) recipients.add(entry.id);
    const found = yield* besideOf({ model, rule, touched: asMoved(starts), rowsOf }, firstIn(rule.moment.up));
    for (const pairs of found.values()) for (const { source } of pairs) sources.push(source);
  } else {
    const { up } = rule.moment;
    for (const { type: of, id } of starts)
      for (const at of [0, ...up.keys()])
        if (typeAt(model, type, up, at) === of)
          for (const recipient of yield* walkDown(model, type, up.slice(0, at), id, rowsOf))
            recipients.add(recipient);
    const walkers = [...recipients].map((recipient): Climber => ({ recipient, at: 0, id: recipient }));
    for (const { before } of starts)
      for (const [at, link] of up.entries())
        if (before && typeAt(model, type, up, at) === before.type)
          walkers.push({ recipient: `was ${before.id}`, at: at + 1, id: before.values[link] ?? null });
    sources.push(...(yield* walkUp(model, { type, up }, walkers, rowsOf)).values());
  }
  sources.forEach(note);
  const reader = new RouteReader(model, rowsOf, undefined, note);
  yield* reader.load(sources, readOnSource(rule));
  const above = rule.condition ? fieldsRead(rule.condition).filter(({ route }) => route.length > 0) : [];
  if (above.length > 0) yield* reader.load([...(yield* rowsOf(type, recipients)).values()], above);
  return { recipients: [...recipients], read: [...read.values()], manyOf: null, records: null };
}

/** Records as if each was made in the run. */
const asMoved = (entries: readonly Touched[]): Map<string, Touched> =>
  new Map(entries.map((entry) => [recordKey(entry), { ...entry, before: null }]));

/** Fields whose change may make a rule act. */
function watchedBy(model: Model, { moment, source, writes }: ReactingCascade): FieldRef[] {
  if (moment.kind === 'onChange')
    return moment.tests.map(({ field }) => ({ type: source, field: field.key }));
  return moment.up.map((link, at) => ({ type: typeAt(model, writes.type, moment.up, at), field: link }));
}
