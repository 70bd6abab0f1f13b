export { loopWords } from './all-the-way';
export type { Touched } from './affected';
export type { Entry } from './apply-edits';
export { titleOf } from './apply-edits';
export { along, handedToMany, handOn, takersOf, type HandOnInput } from './hand-on';
export { type RowsOf, UpReader } from './up-reader';
export { readEdits, type Edit, type EditProblem, type ReadEdits, type WireEdit } from './edit';
export { followersOf, type Follower } from './followers';
export { inLockOrder, lockOrder } from './lock-order';
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
} from './memory-driver';
export { MemoryStore, Overlay, type RecordStore } from './memory-store';
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
} from './need';
export { reactionFails, Restraint } from './reactions';
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
} from './record';
export { whichOf, type WrittenMany } from './ripple';
export type {
  Change,
  Later,
  Missing,
  Overruled,
  OutsideTarget,
  Proposed,
  RecordEvent,
  Ripple,
  Withdrawn,
} from './ripple';
export { makingOf, type TurnedMaker } from './making';
export { defaultsOf } from './edit';
export { type Circle, isCircle, isStage, quietTurnsOf, stagesOf, turnsOf, type Turn } from './turns';
