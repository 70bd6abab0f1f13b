import type { Row, WireEdit } from '@/core/engine';
import { galleries, gbp, rowOf, uuid } from '@/core/testing/galleries';
import { v7 as newId } from 'uuid';

/** Whole numbers from 0 up to a limit, always the same for a seed (Park and Miller's generator). */
export function numbersFrom(seed: number): (limit: number) => number {
  let state = (seed % 2147483646) + 1;
  return (limit) => {
    state = (state * 48271) % 2147483647;
    return state % limit;
  };
}

export const EXHIBITIONS = ['11', '12', '13'].map(uuid);
const LENDERS = ['1', '2'].map(uuid);
const LOANS = Array.from({ length: 12 }, (_, at) => uuid(`2${String(at).padStart(2, '0')}`));
const ARTEFACTS = Array.from({ length: 24 }, (_, at) => uuid(`3${String(at).padStart(2, '0')}`));
const STAGES = ['requested', 'agreed', 'declined', 'returned'];

/** A few parents under which everybody works at once. */
export function fewParents(): Row[] {
  const model = galleries();
  return [
    ...LENDERS.map((id) => rowOf(model, 'institution', id, {})),
    ...EXHIBITIONS.map((id) => rowOf(model, 'exhibition', id, { open: true, venue: LENDERS[0]! })),
    ...LOANS.map((id, at) =>
      rowOf(model, 'loan', id, {
        ...{ exhibition: EXHIBITIONS[at % 3]!, lender: LENDERS[at % 2]! },
        ...{ stage: STAGES[at % 4]!, insuredValue: gbp(at * 100 + 0.25) },
      }),
    ),
    ...ARTEFACTS.map((id, at) => rowOf(model, 'artefact', id, { loan: LOANS[at % 12]! })),
  ];
}

/** Edits of one save at random: values, moves, deletions, restorations, new records, and the parents themselves. */
export function someEdits(number: (limit: number) => number): WireEdit[] {
  const one = <T>(of: readonly T[]): T => of[number(of.length)]!;
  const edits = Array.from({ length: 1 + number(3) }, (): WireEdit => {
    const loan = { type: 'loan', id: one(LOANS) };
    switch (number(10)) {
      case 0:
        return { kind: 'delete', ...loan };
      case 1:
        return { kind: 'restore', ...loan };
      case 2:
        return {
          kind: 'edit',
          ...loan,
          values: { exhibition: one([...EXHIBITIONS, null]), lender: one(LENDERS) },
        };
      case 3:
        return { kind: 'edit', type: 'artefact', id: one(ARTEFACTS), values: { loan: one(LOANS) } };
      case 4:
        return { kind: one(['delete', 'restore'] as const), type: 'artefact', id: one(ARTEFACTS) };
      case 5:
        return { kind: 'create', type: 'artefact', id: newId(), values: { title: 'New', loan: one(LOANS) } };
      case 6:
        return { kind: 'edit', type: 'exhibition', id: one(EXHIBITIONS), values: { open: number(2) === 0 } };
      default: {
        const insuredValue =
          number(5) === 0 ? null : { amount: `${number(100000)}.${10 + number(90)}`, currency: 'GBP' };
        return { kind: 'edit', ...loan, values: { insuredValue, stage: one(STAGES) } };
      }
    }
  });
  return edits.filter((edit, at) => edits.findIndex((other) => other.id === edit.id) === at);
}
