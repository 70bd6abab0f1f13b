import { describe as wordsOf, evaluate, type Expression, isDated, typeCondition } from '@/core/expression';
import { type ModelDefinition, readModel } from '@/core/model';
import type { WireValue } from '@/core/values';

const VISITS: ModelDefinition = {
  types: [
    {
      ...{ key: 'visit', name: 'Visit', plural: 'Visits', title: 'title' },
      fields: [
        { key: 'title', name: 'Title', type: { kind: 'text' }, required: true },
        { key: 'seen', name: 'Seen', type: { kind: 'dateTime' } },
        { key: 'planned', name: 'Planned', type: { kind: 'date' } },
      ],
    },
  ],
};
const model = readModel({ ...VISITS, timeZone: 'Europe/London' }, '2027-07-15');
const feel = (text: string): Expression => ({ kind: 'feel', text });

function typed(expression: Expression, of = model) {
  const found = typeCondition(of, 'visit', expression);
  if (!found.ok) throw new Error(found.problem.message);
  return found.value;
}
const holds = (text: string, seen: WireValue) => evaluate(typed(feel(text)), () => seen as string | null);
const [BEGINS, ENDS] = ['2027-07-14T23:00:00.000Z', '2027-07-15T23:00:00.000Z'];
const before = (moment: string) => new Date(Date.parse(moment) - 1).toISOString();

test.each([
  ['seen >= today()', [false, true, true, true]],
  ['seen < today()', [true, false, false, false]],
  ['seen > today()', [false, false, false, true]],
  ['seen <= today()', [true, true, true, false]],
  ['seen = today()', [false, true, true, false]],
  ['seen != today()', [true, false, false, true]],
  ['today() <= seen', [false, true, true, true]],
  ['seen between today() and today()', [false, true, true, false]],
  ['seen >= date("2027-07-15")', [false, true, true, true]],
])('%s goes by the whole day, as the clocks of the workspace have it', (text, expected) => {
  expect([before(BEGINS), BEGINS, before(ENDS), ENDS].map((seen) => holds(text, seen))).toEqual(expected);
  expect(holds(text, null)).toBe(false);
});

test('days, months and working days move it, and so do hours from when the day began', () => {
  expect(holds('seen >= today() - duration("P1M")', '2027-06-14T23:00:00.000Z')).toBe(true);
  expect(holds('seen >= today() - duration("P1M")', '2027-06-14T22:59:59.999Z')).toBe(false);
  expect(holds('seen >= today() - duration("PT36H")', '2027-07-13T11:00:00.000Z')).toBe(true);
  expect(holds('seen >= today() - duration("PT36H")', '2027-07-13T10:59:59.999Z')).toBe(false);
});

test('it turns with the day, and is told as it was written', () => {
  const condition = typed({
    ...{ kind: 'compare', operator: '>=', left: { kind: 'field', route: [], field: 'seen' } },
    right: { kind: 'day', from: 'today', plus: -36, unit: 'hour' },
  });
  expect(isDated(condition)).toBe(true);
  expect(wordsOf(model, condition)).toBe('Seen is on or after 36 hours before today began');
  expect(wordsOf(model, typed(feel('seen <= today()')))).toBe('Seen is before the end of today');
  expect(wordsOf(model, typed(feel('seen > today() - 2')))).toMatch(
    /^Seen is on or after the end of the day /,
  );
  const next = typed(feel('seen >= today()'), readModel(model, '2027-07-16'));
  expect(evaluate(next, () => BEGINS)).toBe(false);
});

test('a date of the record is another matter, and so are hours where no moment is asked for', () => {
  const refused = (expression: Expression, of = model) => {
    const found = typeCondition(of, 'visit', expression);
    return found.ok ? null : found.problem.code;
  };
  expect(refused(feel('seen >= planned'))).toBe('expression.unlike');
  expect(refused(feel('planned >= today() - duration("PT36H")'))).toBe('day.hours');
  expect(refused(feel('seen >= planned - duration("PT36H")'))).toBe('feel.duration');
  const nowhere = readModel(VISITS, '2027-07-15');
  expect(refused(feel('seen >= today()'), nowhere)).toBe('expression.day');
  expect(refused(feel('seen >= today() - duration("PT36H")'), nowhere)).toBe('expression.day');
});
