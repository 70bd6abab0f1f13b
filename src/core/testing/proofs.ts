import type { Row } from '@/core/engine';
import type { Model } from '@/core/model';
import { allBeneath, type Proof, recordToWire } from '@/core/verify';
import { uuid } from './galleries';

/** A proof over a few records, with all that hangs under each of them. */
export const proofOf = (model: Model, rule: string, rows: readonly Row[], more: Partial<Proof>): Proof => ({
  ...{ id: uuid('f1'), rule, name: 'A proof', day: '2027-03-01', people: [], runs: [], expectations: [] },
  family: {
    ...{ root: { type: rows[0]!.type, id: rows[0]!.id }, members: rows.map(({ id }) => id), names: {} },
    records: rows.map((row) => recordToWire(model, row)),
    complete: allBeneath(model, rows),
  },
  ...more,
});
