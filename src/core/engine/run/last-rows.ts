import type { LinkRef } from '@/core/model';
import {
  competeForField,
  asksWhich,
  type ReactingCascade,
  type CompiledLinked,
  type CompiledRule,
  isReactingCascade,
  isReacting,
  writtenAt,
} from '@/core/rules';
import { isError, sameValue, firstIn, valueAt } from '@/core/values';
import { type Affected, affectedTargets, causesInOrder, isReached } from '@/core/engine/reach/affected';
import { layersAbove, loopWords } from '@/core/engine/reach/hierarchy-layers';
import { titleOf } from '@/core/engine/edits/apply-edits';
import { childrenOf, depthsOf } from '@/core/engine/reach/hierarchy-descent';
import type { EditProblem } from '@/core/engine/edits/types';
import { runCascade, recipientsOf } from '@/core/engine/cascade/cascade-run';
import { stillFires } from '@/core/engine/cascade/cascade-firing';
import type { CascadeSource } from '@/core/engine/cascade/cascade-input';
import {
  ask,
  type Answer,
  type Answers,
  type Need,
  type RecordSet,
  rowSet,
  type Work,
  type WorkedOut,
  type Write,
} from '@/core/engine/driver/need';
import { type CellRef, recordKey, type Row, sameOutcome } from '@/core/engine/driver/record';
import type { Circle } from './schedule';
import { updateIncrementally } from './incremental';
import { whichOf } from '@/core/engine/driver/ripple';
import type { RunState } from './run-state';
import type { BulkWrites } from './bulk-writes';

/** Which row of their tables holds for roll-ups that react in a circle, and what they wrote; kept once the circle has settled. */
export class LastRows {
  readonly #rows = new Map<
    string,
    { readonly rule: CompiledRule; readonly id: string; readonly row: number }
  >();

  set(rule: CompiledRule, id: string, row: number): void {
    this.#rows.set(`${rule.id} ${id}`, { rule, id, row });
  }

  /** It is as it was before the run. */
  forget(rule: CompiledRule, id: string): void {
    this.#rows.delete(`${rule.id} ${id}`);
  }

  writes(): Write[] {
    return [...this.#rows.values()].map(({ rule, id, row }) => ({
      ...{ kind: 'edit', type: rule.writes.type, id, wave: 1, changes: [], events: [] },
      rows: [{ rule: rule.id, field: rule.writes.field, row }],
    }));
  }

  /** Whether a record still has what its rule asks for now. */
  stands(rule: CompiledRule, id: string, now: Row | null | undefined): boolean {
    const last = this.#rows.get(`${rule.id} ${id}`);
    if (!last || !isReacting(rule)) return true;
    const wanted = writtenAt(rule.map, rule.whenNone, last.row);
    return wanted !== undefined && sameValue(now?.values[rule.writes.field] ?? null, wanted);
  }
}
