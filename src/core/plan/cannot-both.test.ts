import { evaluatorOf, readFeel, type Typed, typeCondition } from '@/core/expression';
import { OWN_FIELDS } from '@/core/engine/driver/record';
import { rowOf, uuid } from '@/core/testing/galleries';
import { touring } from '@/core/testing/touring';
import { cannotBothHold } from './cannot-both';

const model = touring();
const typed = (text: string): Typed => {
  const read = readFeel(model, 'loan', text);
  if (!read.ok) throw new Error(read.problem.message);
  const result = typeCondition(model, 'loan', read.value.expression);
  if (!result.ok) throw new Error(result.problem.message);
  return result.value;
};

const APART: readonly [string, string][] = [
  ['stage = "agreed"', 'stage = "declined"'],
  ['stage = "agreed"', 'stage != "agreed"'],
  ['stage in ("agreed", "requested")', 'stage in ("declined", "returned")'],
  ['stage = null', 'stage = "agreed"'],
  ['stage = null', 'stage != null'],
  ['dueBack < date("2027-03-01")', 'dueBack >= date("2027-03-01")'],
  ['dueBack < date("2027-03-01")', 'dueBack > date("2027-03-01")'],
  ['dueBack <= date("2027-03-01")', 'dueBack = date("2027-03-02")'],
  ['dueBack = null', 'dueBack > date("2027-03-01")'],
  ['coordinator = "Priya" and stage = "agreed"', 'stage = "declined" and coordinator = "Priya"'],
];
const TOGETHER: readonly [string, string][] = [
  ['stage = "agreed"', 'coordinator = "Priya"'],
  ['stage in ("agreed", "requested")', 'stage in ("requested", "returned")'],
  ['dueBack <= date("2027-03-01")', 'dueBack >= date("2027-03-01")'],
  ['stage = "agreed" or coordinator = "Priya"', 'stage = "declined"'],
  ['stage != "agreed"', 'stage != "declined"'],
  ['not(stage = "agreed")', 'stage = null'],
];

test.each(APART)('%s and %s can’t both hold', (one, other) => {
  expect(cannotBothHold(typed(one), typed(other))).toBe(true);
  expect(cannotBothHold(typed(other), typed(one))).toBe(true);
});

test.each(TOGETHER)('%s and %s may', (one, other) => {
  expect(cannotBothHold(typed(one), typed(other))).toBe(false);
  expect(cannotBothHold(typed(other), typed(one))).toBe(false);
});

test('where it says that they can’t, no record meets both', () => {
  const all = [...APART, ...TOGETHER].flat().map(typed);
  const rows = ['requested', 'agreed', 'declined', 'returned', null].flatMap((stage) =>
    [null, 'Priya', 'Farid'].flatMap((coordinator) =>
      [null, '2027-02-28', '2027-03-01', '2027-03-02'].map((dueBack) =>
        rowOf(model, 'loan', uuid('1'), { stage, coordinator, dueBack }),
      ),
    ),
  );
  const read = (row: (typeof rows)[number], field: Parameters<typeof OWN_FIELDS.value>[1]) =>
    OWN_FIELDS.given(row, field);
  const meets = (node: Typed, row: (typeof rows)[number]) => evaluatorOf(node)(row, read) === true;
  for (const one of all)
    for (const other of all)
      if (cannotBothHold(one, other))
        expect(rows.filter((row) => meets(one, row) && meets(other, row))).toEqual([]);
  expect(cannotBothHold(null, all[0]!)).toBe(false);
});
