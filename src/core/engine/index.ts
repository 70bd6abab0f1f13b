export { loopWords } from './reach/hierarchy-layers';
export type { Touched } from './reach/affected';
export { type Entry, type Edit, type EditProblem, type WireEdit } from './edits/types';
export { titleOf } from './edits/apply-edits';
export { along, handedToMany, handOn, takersOf, type HandOnInput } from './cascade/cascade-run';
export { type RowsOf, UpReader } from './reach/route-reader';
export { readEdits, type ReadEdits, defaultsOf } from './edits/read-edits';
export { followersOf, type Follower } from './reach/dependants';
export { inLockOrder, lockOrder } from './reach/lock-order';
export {
  answerInMemory,
  isHolderFor,
  finderOf,
  outcomeAlone,
  membersOf,
  readerOf,
  rollUpInMemory,
  runInMemory,
  runWith,
  writtenRow,
} from './driver/memory-driver';
export { MemoryStore, Overlay, type RecordStore } from './driver/memory-store';
export {
  ask,
  rowSet,
  type Answer,
  type Answers,
  type Claim,
  type HandedToMany,
  type Made,
  type KeptAccumulator,
  type KeptLeader,
  type KeptRow,
  type Need,
  type RecordSet,
  type TakenAlong,
  type Work,
  type WorkedOut,
  type Write,
} from './driver/need';
export { reactionFails, Restraint } from './run/write-precedence';
export {
  MOST_TOUCHED,
  makeAfter,
  propagate,
  settleAfter,
  type PropagateInput,
  type WriteBackInput,
  writeBack,
  type Rest,
  type RunOutcome,
} from './propagate';
export {
  cellKey,
  emptyRow,
  OWN_FIELDS,
  recordKey,
  sameOutcome,
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
} from './run/ripple';
export { makingOf, type TurnedMaker } from './create/create-run';
export { type Circle, isCircle, isStage, quietTurnsOf, stagesOf, turnsOf, type Turn } from './run/schedule';
