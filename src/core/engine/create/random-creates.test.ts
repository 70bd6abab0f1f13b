import { cases } from '@/core/testing/cases';
import fc from 'fast-check';
import { TREATMENT } from '@/core/testing/inspections';
import {
  ALWAYS,
  anySaves,
  ARTEFACTS,
  BOTH_WAYS,
  COUNT,
  INSPECTIONS,
  MAKING_MODEL as model,
  MakingDesk as Desk,
} from '@/core/testing/any-making';
import type { Value } from '@/core/values';
import type { Row } from '@/core/engine';

const meetsLine = ({ values: { sort } }: Row) =>
  typeof sort === 'string' && ['painting', 'textile', 'paper'].includes(sort);
const meetsTreatment = ({ values: { outcome, byPhoto } }: Row) => outcome === 'damage' && byPhoto === false;
const same = (one: Value, other: Value) => String(one ?? '') === String(other ?? '');

/** Which records came to meet a condition in a run: those made, and those that stood before and didn't. */
const entering = (meets: (row: Row) => boolean, before: readonly Row[], after: readonly Row[]): string[] => {
  const stood = new Map(before.map((row) => [row.id, row]));
  return after
    .filter((row) => {
      const was = stood.get(row.id);
      return !row.deleted && meets(row) && (!was || (!was.deleted && !meets(was)));
    })
    .map(({ id }) => id);
};

test('one stands for each record that ever came to meet the condition, and no other', () => {
  let made = 0;
  let saved = 0;
  fc.assert(
    fc.property(anySaves, (saves) => {
      const desk = new Desk([COUNT, TREATMENT, ALWAYS]);
      const entered = { inspection: new Set<string>(), artefact: new Set<string>() };
      for (const [number, acts] of saves.entries()) {
        const before = { inspection: desk.all('inspection'), artefact: desk.all('artefact') };
        const { isDone } = desk.save(acts, number);
        if (!isDone) continue;
        saved += 1;
        for (const id of entering(meetsTreatment, before.inspection, desk.all('inspection')))
          entered.inspection.add(id);
        for (const id of entering(meetsLine, before.artefact, desk.all('artefact'))) entered.artefact.add(id);
        expect(desk.madeFor(TREATMENT, INSPECTIONS.concat([...entered.inspection]))).toEqual(
          [...entered.inspection].sort(),
        );
        expect(desk.all('treatment')).toHaveLength(entered.inspection.size);
        expect(desk.madeFor(ALWAYS, ARTEFACTS)).toEqual([...entered.artefact].sort());
        expect(desk.all('line')).toHaveLength(entered.artefact.size);
        for (const type of ['treatment', 'line'])
          expect(
            desk
              .all(type)
              .map(({ values }) => Number(values.number))
              .sort((a, b) => a - b),
          ).toEqual(desk.all(type).map((_, at) => at + 1));
        for (const { id, values } of desk.all('artefact').filter((row) => !row.deleted))
          expect(Number(values.treatments)).toBe(
            desk.all('treatment').filter((row) => !row.deleted && row.values.artefact === id).length,
          );
      }
      made += desk.all('treatment').length + desk.all('line').length;
    }),
    { numRuns: cases(200) },
  );
  expect(Math.min(made, saved)).toBeGreaterThan(200);
});

test('both sides hold the same after every run: what the record got, and otherwise what was entered on what was made', () => {
  let returned = 0;
  fc.assert(
    fc.property(anySaves, (saves) => {
      const desk = new Desk([ALWAYS]);
      for (const [number, acts] of saves.entries()) {
        const before = new Map([...desk.all('artefact'), ...desk.all('line')].map((row) => [row.id, row]));
        const { edits, isDone } = desk.save(acts, number);
        if (!isDone) continue;
        const entered = (id: string, field: string): Value | undefined => {
          const one = edits.find((edit) => edit.id === id);
          if (one?.kind !== 'edit' || !(field in one.values)) return undefined;
          return same(one.values[field]!, before.get(id)!.values[field]!) ? undefined : one.values[field]!;
        };
        for (const source of desk.all('artefact')) {
          const line = desk.lineOf(source.id);
          const isInStep = !source.deleted && meetsLine(source);
          if (line) expect(line.deleted).toBe(!isInStep);
          if (line && isInStep) expect(line.values.title).toBe(source.values.title);
          const was = before.get(source.id)!;
          for (const field of BOTH_WAYS) {
            if (line && isInStep) expect(String(line.values[field])).toBe(String(source.values[field]));
            const own = entered(source.id, field);
            const back = line && before.has(line.id) ? entered(line.id, field) : undefined;
            if (own === undefined && back !== undefined) returned += 1;
            const expected = own !== undefined ? own : back !== undefined ? back : was.values[field]!;
            expect(String(source.values[field])).toBe(String(expected));
          }
        }
      }
    }),
    { numRuns: cases(200) },
  );
  expect(returned).toBeGreaterThan(20);
});

test('what is made depends neither on the order of the rules nor on that of the edits', () => {
  const printed = (desk: Desk) =>
    model.types
      .flatMap(({ key }) => desk.all(key))
      .map(({ type, id, deleted, values: { number: _, line, lineNumber, ...values } }) =>
        [
          ...[type, type === 'line' || type === 'treatment' ? '' : id, deleted],
          ...[line !== null, lineNumber !== null, JSON.stringify(values)],
        ].join(' '),
      )
      .sort();
  fc.assert(
    fc.property(anySaves, (saves) => {
      const desks = [new Desk([COUNT, TREATMENT, ALWAYS]), new Desk([COUNT, TREATMENT, ALWAYS], true)];
      for (const [number, acts] of saves.entries()) {
        const [one, other] = desks.map((desk) => desk.save(acts, number).isDone);
        expect(one).toBe(other);
        expect(printed(desks[0]!)).toEqual(printed(desks[1]!));
      }
    }),
    { numRuns: cases(100) },
  );
});
