import { Failure, OUTSIDE } from '@/core/expression';
import { grouped } from '@/core/grouped';
import { typeIn } from '@/core/model';
import {
  type CompiledAssigned,
  type CompiledCreate,
  assignedOutcome,
  isAtOnce,
  isHeld,
  type ExecutionMode,
  executionModeOf,
} from '@/core/rules';
import { isError, sameValue, type Value, valueAt, firstIn } from '@/core/values';
import { isThere } from '@/core/engine/reach/affected';
import { defaultsOf } from '@/core/engine/edits/read-edits';
import { type Answer, type Made, type Need } from '@/core/engine/driver/need';
import { type CellRef, recordKey, type Row } from '@/core/engine/driver/record';
import type { WritePrecedence } from '@/core/engine/edits/write-precedence';
import { MakingSources, type Source, verdict } from './making-sources';
import { proposeMissing, requiredMissing } from './missing-values';
import { type Making, type MakingInput, type ToWrite } from './making';

/**
 * What a rule that makes records does in a run, from what was touched before its turn; each record that it is for acts once.
 *
 * | the record it is for …                                 | what it does                                                                   |
 * | ------------------------------------------------------ | ------------------------------------------------------------------------------ |
 * | comes to meet the condition, or is made meeting it      | makes one; of one for each only where none was made yet; its own comes back from the bin where the rule put it there |
 * | came back from the bin                                  | nothing: that is neither making nor coming to meet                              |
 * | meets it, and what is assigned changed                  | cascades that to what was made                                                  |
 * | meets it, and what was made was changed                 | takes that back, where changes go back; where both changed its own side stands  |
 * | no longer meets it, or goes into the bin                | what the rule says becomes of what was made; what it proposed is open no more   |
 */
export function* makingOf(
  input: MakingInput,
  writePrecedence: Pick<WritePrecedence, 'isEntered' | 'isRestored'>,
): Generator<Need, Making, Answer> {
  const work = new MakingWork(input, writePrecedence);
  yield* work.run();
  return work.made;
}

class MakingWork extends MakingSources {
  *run(): Generator<Need, void, Answer> {
    const { rule, rowsOf } = this.input;
    const sources = yield* this.sources();
    if (this.made.failed !== null) return;
    const edited = this.editedOnes();
    if (sources.length + edited.length === 0) return;
    const known = yield* this.known(sources, edited);
    const bySource = grouped(known, ({ source }) => source);
    const rows = yield* rowsOf(
      rule.makes,
      known.map(({ made }) => made),
    );
    const others = yield* this.othersOf(known, sources);
    for (const source of [...sources, ...others]) {
      yield* this.act(source, bySource.get(source.row.id) ?? [], rows);
      if (this.made.failed !== null) return;
    }
    yield* proposeMissing(this.input, this.made);
  }

  private *act(
    source: Source,
    known: readonly Made[],
    rows: ReadonlyMap<string, Row>,
  ): Generator<Need, void, Answer> {
    const { rule } = this.input;
    const { row, meets, met, isAsked } = source;
    const there = known.flatMap(({ made }) => {
      const found = rows.get(made);
      return found && !found.deleted ? [found] : [];
    });
    if (met && !meets) return this.leave(source, there);
    if (!meets) return;
    const isComing = rule.pace === 'withTheSave' && !met && !this.writePrecedence.isRestored(row);
    if (isComing || isAsked) {
      const isFound = rule.definition.each === 'once' && (known.length > 0 || this.hasOne(row));
      if (!isFound) return yield* this.make(source);
      const back = known.find(({ isTakenBack, made }) => isTakenBack && rows.get(made)?.deleted);
      if (back && there.length === 0) {
        const found = valueAt(rows, back.made);
        this.made.moves.push({ kind: 'restore', row: found, source: row, causes: source.causes });
        this.follow(source, found, true);
        return;
      }
    }
    for (const one of there) this.follow(source, one, false);
  }

  /** Its link names one already, which somebody entered. */
  private hasOne(row: Row): boolean {
    const { field } = this.input.rule.writes;
    return field !== '' && (row.values[field] ?? null) !== null;
  }

  private *make(source: Source): Generator<Need, void, Answer> {
    const { rule } = this.input;
    const way = executionModeOf(rule.making, source.row.values);
    if (way === 'not') return;
    const given = this.valuesFor(source);
    if (!given) return;
    yield* this.unlinkGone(given.values);
    this.made.makes.push({ source: source.row, ...given, causes: source.causes, way });
  }

  /** Defaults, over them what is assigned, and the link back; `null` where a value can't be worked out. */
  private valuesFor({ row, before }: Source) {
    const { model, plan, rule } = this.input;
    const values = defaultsOf(model, plan, rule.makes);
    const assigned: string[] = [];
    for (const one of rule.assigned) {
      const given = this.given(one, row, before ?? row);
      if (given === 'failed') return null;
      if (given === null) continue;
      assigned.push(one.target.key);
      if (given.value !== null || !(one.target.key in values)) values[one.target.key] = given.value;
    }
    const { back } = rule.definition;
    if (back !== null) values[back] = row.id;
    return { values, assigned: back === null ? assigned : [...assigned, back] };
  }

  /** What an assignment gives for a record; `null` for nothing. */
  private given(one: CompiledAssigned, now: Row, before: Row): { readonly value: Value } | null | 'failed' {
    const isGiven = verdict(one.given, now, this.now);
    if (isGiven === false) return null;
    const { facts } = this.input;
    const outcome = assignedOutcome(one, { now, before, facts }, (row, field) =>
      row === before && row !== now ? this.was.read(row, field) : this.now.read(row, field),
    );
    if (isGiven === OUTSIDE || outcome === OUTSIDE) {
      this.made.outside.push(now.id);
      return null;
    }
    if (isGiven instanceof Failure || isError(outcome)) {
      this.made.failed ??= now.id;
      return 'failed';
    }
    return outcome;
  }

  /** What would name a record that isn't there names none. */
  private *unlinkGone(values: Record<string, Value>): Generator<Need, void, Answer> {
    const { model, rule, rowsOf } = this.input;
    for (const { key, type } of typeIn(model, rule.makes).fields) {
      const id = values[key];
      if (type.kind !== 'link' || typeof id !== 'string') continue;
      const row = (yield* rowsOf(type.target, [id])).get(id);
      if (row?.deleted) values[key] = null;
    }
  }

  /** Cascades what changed to a record that was made, and takes back what was changed there. */
  private follow(source: Source, made: Row, isAll: boolean): void {
    const { rule, touched } = this.input;
    const { row, before } = source;
    const entry = touched.get(recordKey(made));
    const following = executionModeOf(rule.following, row.values);
    const returning = executionModeOf(rule.returning, row.values);
    const onward: Record<string, Value> = {};
    const backward: Record<string, Value> = {};
    for (const one of rule.assigned) {
      const { target, returnsTo } = one;
      const stands = made.values[target.key] ?? null;
      const isTouched = entry !== undefined && isThere(entry.before) && entry.fields.has(target.key);
      const cell = { type: made.type, id: made.id, field: target.key };
      if (isAll || (before && this.isChanged(one, row, before))) {
        const given = following === 'not' ? null : this.given(one, row, before ?? row);
        if (given === 'failed') return;
        if (given && !sameValue(given.value, stands)) {
          onward[target.key] = given.value;
          if (isTouched && this.writePrecedence.isEntered(cell))
            this.made.overruled.push({ ...cell, rule: rule.id, value: stands, isEntered: true });
        }
      } else if (isTouched && returning !== 'not' && returnsTo) {
        if (!sameValue(row.values[returnsTo.key] ?? null, stands)) backward[returnsTo.key] = stands;
      } else if (isTouched && isHeld(rule, one, row.values) && this.writePrecedence.isEntered(cell))
        this.made.claimed ??= cell;
    }
    const { causes } = source;
    this.go(following, { kind: 'follow', source: row, row: made, values: onward, causes });
    this.go(returning, {
      kind: 'return',
      source: row,
      row,
      values: backward,
      causes: changesOf(made, backward, rule),
    });
  }

  /** Whether what an assignment gives is something else than before the run. */
  private isChanged(one: CompiledAssigned, now: Row, before: Row): boolean {
    const { facts, turned } = this.input;
    const meant = turned?.from.assigned.find(({ target }) => target.key === one.target.key) ?? one;
    const is = assignedOutcome(one, { now, before: now, facts }, this.now.read);
    const was = assignedOutcome(meant, { now: before, before, facts }, this.was.read);
    if (is === OUTSIDE || was === OUTSIDE || isError(is)) return false;
    return isError(was) || !sameValue(is.value, was.value);
  }

  private go(
    way: ExecutionMode,
    {
      kind,
      source,
      row,
      values,
      causes,
    }: ToWrite & { readonly kind: 'follow' | 'return'; readonly source: Row },
  ): void {
    if (way === 'not' || Object.keys(values).length === 0) return;
    const missing = requiredMissing(typeIn(this.input.model, row.type).fields, values, true);
    const isDone = isAtOnce(way) && missing.length === 0;
    if (isDone) this.made.writes.push({ row, values, causes });
    if (way === 'directly' && isDone) return;
    this.made.proposals.push({
      ...{ rule: this.input.rule.id, kind, isDone, values, missing, causes, type: row.type },
      source: { type: source.type, id: source.id },
      target: { type: row.type, id: row.id },
    });
  }

  /** What becomes of those that were made, once the record leaves the condition or goes. */
  private leave(source: Source, there: readonly Row[]): void {
    const { rule } = this.input;
    const { afterwards, back } = rule.definition;
    const { row, causes } = source;
    this.made.withdrawn.push({ rule: rule.id, source: row.id });
    for (const made of there) {
      if (afterwards === 'removed') this.made.moves.push({ kind: 'delete', row: made, source: row, causes });
      else if (rule.marks) this.write(made, { [rule.marks.target.key]: rule.marks.value }, causes);
      else if (afterwards === 'unlinked' && back !== null && made.values[back] === row.id)
        this.write(made, { [back]: null }, causes);
    }
    const { field } = rule.writes;
    const names = field === '' ? null : row.values[field];
    const isApart = afterwards === 'unlinked' || afterwards === 'removed';
    if (!isApart || row.deleted || there.length === 0) return;
    const emptied = [
      ...(there.some(({ id }) => id === names) ? [field] : []),
      ...rule.given.map(({ target }) => target.key),
    ].filter((key) => (row.values[key] ?? null) !== null);
    if (emptied.length > 0)
      this.made.writes.push({ row, values: Object.fromEntries(emptied.map((key) => [key, null])), causes });
  }

  private write(row: Row, values: Record<string, Value>, causes: readonly CellRef[]): void {
    const [field, value] = firstIn(Object.entries(values));
    if (!sameValue(row.values[field] ?? null, value)) this.made.writes.push({ row, values, causes });
  }
}

/** The changes of a record that was made from which those of the other follow. */
const changesOf = (
  { type, id }: Row,
  values: Readonly<Record<string, Value>>,
  { assigned }: CompiledCreate,
): CellRef[] =>
  assigned.flatMap(({ target, returnsTo }) =>
    returnsTo && returnsTo.key in values ? [{ type, id, field: target.key }] : [],
  );
