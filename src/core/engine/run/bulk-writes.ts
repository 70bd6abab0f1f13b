import { valueAt, firstIn, itemAt, writeCount } from '@/core/values';
import {
  type AnyCompiled,
  type ReactingCascade,
  type CompiledRule,
  isAskedBy,
  readsField,
} from '@/core/rules';
import { titleOf } from '@/core/engine/edits/apply-edits';
import type { EditProblem } from '@/core/engine/edits/types';
import type { CascadeSource } from '@/core/engine/cascade/cascade-input';
import { bulkAssignment } from '@/core/engine/cascade/cascade-firing';
import {
  ask,
  type Answer,
  type Answers,
  type BulkAssignment,
  type Need,
  rowSet,
} from '@/core/engine/driver/need';
import { recordKey } from '@/core/engine/driver/record';
import { reactionFails } from '@/core/engine/edits/write-precedence';
import type { RunState } from './run-state';

/** So many records were written as a set that a rule would have to cascade from, or make records for, in turn. */
export const CONTINUE_IN_BULK = 'run.continueInBulk';

/** What a run writes as a set, since it reaches so many records that they aren't told one by one. */
export class BulkWrites {
  constructor(private readonly state: RunState) {}

  /** The same to so many that they are written as a set. */
  *bulkCascade(
    parts: readonly ReactingCascade[],
    pairs: ReadonlyMap<string, CascadeSource>,
  ): Generator<Need, EditProblem | null, Answer> {
    const rowsOf = (type: string, ids: Iterable<string>) => this.state.rowsOf(type, ids);
    const handed: BulkAssignment[] = [];
    for (const rule of parts) {
      const { model, touched, facts } = this.state;
      const given = yield* bulkAssignment({ model, rule, touched, rowsOf, facts }, pairs);
      if ('failed' in given) {
        const source = valueAt(pairs, given.failed).source;
        const message = reactionFails(rule, titleOf(this.state.model, source));
        return { code: 'rule.reaction', index: 0, message, data: { rule: rule.id, id: source.id } };
      }
      handed.push({ rule, given, except: this.state.writePrecedence.takenIn(rule) });
    }
    this.state.needs += 1;
    const { counts, overruled }: Answers['bulkCascade'] = yield* ask<'bulkCascade'>({
      kind: 'bulkCascade',
      parts: handed,
    });
    yield* this.wroteMany(parts, counts, overruled);
    return null;
  }

  /** Rules that read what was written as a set are filled as a set, too. */
  *fillMany(rules: readonly CompiledRule[]): Generator<Need, EditProblem | null, Answer> {
    for (const leave of [true, false]) {
      const some = rules.filter((rule) => this.state.paces.isDeferred(rule) === leave);
      if (some.length === 0) continue;
      this.state.needs += 1;
      const entered = some.flatMap(({ writes }) =>
        this.state.writePrecedence.enteredIn(writes).map((id) => ({ ...writes, id })),
      );
      const counts: Answers['fillMany'] = yield* ask<'fillMany'>({
        kind: 'fillMany',
        rules: some,
        leave,
        entered,
      });
      if (!leave) yield* this.wroteMany(some, counts);
    }
    return null;
  }

  /** Takes note of what was written as a set, and looks at the touched records of its type anew. */
  private *wroteMany(
    rules: readonly CompiledRule[],
    counts: readonly number[],
    overruled: readonly number[] = [],
  ): Generator<Need, void, Answer> {
    const { type } = firstIn(rules).writes;
    for (const [at, rule] of rules.entries()) {
      const records = itemAt(counts, at);
      const outranked = overruled[at] ?? 0;
      if (records + outranked === 0) continue;
      const more = outranked > 0 ? { overruled: outranked } : {};
      this.state.many.push({ ...rule.writes, rule: rule.id, records, ...more });
    }
    for (const key of [...this.state.read.keys()])
      if (key.startsWith(`${type} `)) this.state.read.delete(key);
    const known = [...this.state.touched.values()].filter((entry) => entry.type === type && entry.after);
    if (known.length === 0) return;
    const set = rowSet(
      type,
      known.map(({ id }) => id),
    );
    const { rows }: Answers['records'] = yield* ask<'records'>({ kind: 'records', set });
    for (const entry of known) {
      const after = rows.get(entry.id);
      if (after) this.state.touched.set(recordKey(entry), { ...entry, after });
    }
  }

  /** Whether a rule reads what this run wrote as a set. */
  readsMany(rule: CompiledRule): boolean {
    return this.state.many.some(
      (written) => written.records > 0 && (readsField(rule, written) || isAskedBy(rule, written)),
    );
  }

  tooManyInTurn(rule: AnyCompiled): EditProblem {
    const written = this.state.many.find((one) => readsField(rule, one));
    const records = written ? `${writeCount(written.records)} records` : 'many records';
    const message = `This would change ${records} at once, from which “${rule.name}” would have to be worked out in turn. Nothing was saved; pause that rule, or change fewer records.`;
    return { code: CONTINUE_IN_BULK, index: 0, message, data: { rule: rule.id } };
  }
}
