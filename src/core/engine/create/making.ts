import { type RunContext } from '@/core/expression';
import { type Model } from '@/core/model';
import type { Plan } from '@/core/plan';
import { type CompiledCreate, type ExecutionMode, executionModesOf } from '@/core/rules';
import { type Value } from '@/core/values';
import type { Touched } from '@/core/engine/driver/record';
import { type CellRef, type RecordRef, type Row } from '@/core/engine/driver/record';
import type { Overruled, Proposed, Withdrawn } from '@/core/engine/driver/ripple';
import { type RowsOf } from '@/core/engine/reach/route-reader';

export interface MakingInput {
  readonly model: Model;
  readonly plan: Plan;
  readonly rule: CompiledCreate;
  /** What the run has touched so far, by `recordKey`. */
  readonly touched: ReadonlyMap<string, Touched>;
  readonly rowsOf: RowsOf;
  /** Who makes the run's change, and when. */
  readonly facts: RunContext | null;
  /** Records for which it is asked now, whatever changed. */
  readonly asked: readonly string[];
  /** Where the settled day turned: what the rule meant before. */
  readonly turned?: TurnedMaker;
}

/** What a rule meant before the settled day turned, and the records for which it may mean something else since. */
export interface TurnedMaker {
  readonly from: CompiledCreate;
  readonly ids: readonly string[];
}

/** A record that is made. */
export interface ToMake {
  readonly source: Row;
  readonly values: Readonly<Record<string, Value>>;
  /** Fields that the rule gives a value, an empty one included; others have their defaults. */
  readonly assigned: readonly string[];
  readonly causes: readonly CellRef[];
  readonly way: ExecutionMode;
}

/** Fields of a record that is there, written because of the other. */
export interface ToWrite {
  readonly row: Row;
  readonly values: Readonly<Record<string, Value>>;
  readonly causes: readonly CellRef[];
}

/** A record that goes into the bin or comes out of it because of the one for which it was made. */
export interface ToMove {
  readonly kind: 'delete' | 'restore';
  readonly row: Row;
  readonly source: RecordRef;
  readonly causes: readonly CellRef[];
}

/** What a create rule does in a run. */
export interface Making {
  readonly makes: ToMake[];
  readonly writes: ToWrite[];
  readonly moves: ToMove[];
  readonly proposals: Omit<Proposed, 'wave'>[];
  readonly withdrawn: Withdrawn[];
  readonly overruled: Overruled[];
  /** Records of which not all that is read is loaded. */
  readonly outside: string[];
  /** The first record on which it couldn't be told what to do. */
  failed: string | null;
  /** A person entered what is kept in step one way. */
  claimed: CellRef | null;
}

/** Whether changes are ever cascaded to what was made, or taken back from it. */
export const isInTouch = ({ following, returning }: CompiledCreate): boolean =>
  [...executionModesOf(following), ...executionModesOf(returning)].some((way) => way !== 'not');
