export { loopWords } from './reach/hierarchy-layers';
export { affectedTargets } from './reach/affected';
export { type Touched } from './driver/record';
export { type Entry, type Edit, type EditProblem, type WireEdit } from './edits/types';
export { titleOf } from './edits/apply-edits';
export { walkRoute } from './cascade/cascade-reach';
export { type RowsOf, RouteReader } from './reach/route-reader';
export { isFilledByRule, watchedIn } from './edits/open-links';
export { readEdits, type ReadEdits, defaultsOf } from './edits/read-edits';
export { dependantsOf, type Dependant } from './locks/dependants';
export { inLockOrder, lockOrder } from './reach/lock-order';
export { answerInMemory, isHolderFor, runInMemory, runWith, writtenRow } from './driver/memory-driver';
export { finderOf, outcomeAlone, membersOf, readerOf, rollUpInMemory } from './driver/memory-reader';
export { MemoryStore, Overlay, pendingOver, type RecordStore } from './driver/memory-store';
export {
  ask,
  rowSet,
  type Answer,
  type Answers,
  type Claim,
  type BulkAssignment,
  type Made,
  type KeptAccumulator,
  type KeptExtremum,
  type KeptRow,
  type Need,
  type RecordSet,
  type DeletionMembers,
  type Work,
  type WorkedOut,
  type Write,
} from './driver/need';
export { reactionFails, WritePrecedence } from './edits/write-precedence';
export {
  MOST_TOUCHED,
  makeAfter,
  propagate,
  type PropagateInput,
  type WriteBackInput,
  writeBack,
  type Continuation,
  type RunOutcome,
} from './propagate';
export {
  cellKey,
  emptyRow,
  OWN_FIELDS,
  recordKey,
  sameOutcome,
  sameRow,
  storedOutcome,
  type CellRef,
  type MadeFor,
  type RecordRef,
  type Row,
  type Change,
} from './driver/record';
export {
  whichOf,
  type WrittenMany,
  type Later,
  type Missing,
  type Overruled,
  type OutsideTarget,
  type Proposed,
  type RecordEvent,
  type Ripple,
  type Withdrawn,
} from './driver/ripple';
export { walkInBulk, mayActOnStanding, type BulkInput } from './bulk/walk-in-bulk';
export { type Filled } from './bulk/bulk-state';
export { type Bounds, BOUNDS } from './reach/bounds';
export {
  type Acting,
  type ChangedPage,
  type ChangedQuery,
  type SetAnswers,
  type SetNeed,
  type TargetSet,
  type TouchedInRun,
} from './driver/set-need';
export { makingOf } from './create/create-run';
export { type TurnedMaker } from './create/making';
