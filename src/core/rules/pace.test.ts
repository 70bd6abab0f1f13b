import type { Pace } from '@/core/model';
import { galleries, INSURED_TOTAL, ruleOf } from '@/core/testing/galleries';
import { compileRule } from './compile';
import { paceWords } from './pace';
import { sentenceOf } from './sentence';

const model = galleries();
const compiled = (pace: unknown, also: object = {}) =>
  compileRule(model, ruleOf({ ...INSURED_TOTAL, ...also, pace: pace as Pace }, 1));

test.each<[Pace, string]>([
  ['withTheSave', 'with the save'],
  ['soonAfter', 'soon after'],
  [{ kind: 'timetable', every: 'hour', at: '00:15' }, 'every hour at minute 15'],
  [{ kind: 'timetable', every: 'day', at: '06:00' }, 'every day at 06:00'],
  [{ kind: 'timetable', every: 'week', at: '18:30', weekday: 1 }, 'every Monday at 18:30'],
  [{ kind: 'timetable', every: 'month', at: '00:00', day: 28 }, 'every month on day 28 at 00:00'],
  [{ kind: 'onRequest', field: null }, 'on request'],
  [{ kind: 'onRequest', field: 'open' }, 'on request, or when Open turns yes'],
])('%j reads “%s”', (pace, words) => {
  const named = paceWords(pace, (key) => model.field('exhibition', key)!.name);
  expect(named).toBe(words);
  const result = compiled(pace);
  expect(result.ok && sentenceOf(model, result.rule).toLowerCase()).toMatch(new RegExp(`${words}\\.$`, 'i'));
});

test.each<[unknown, string]>([
  [{ kind: 'timetable', every: 'day', at: '24:00' }, 'a time such as 06:00'],
  [{ kind: 'timetable', every: 'week', at: '06:00' }, 'a day from 1 (Monday) to 7'],
  [{ kind: 'timetable', every: 'month', at: '06:00', day: 31 }, 'a day from 1 to 28'],
  [{ kind: 'timetable', every: 'decade', at: '06:00' }, 'Choose when'],
  [{ kind: 'onRequest', field: 'insuredTotal' }, 'Insured total is money'],
  [{ kind: 'onRequest', field: 'recount' }, 'there is no field “recount”'],
])('%j is refused at the pace', (pace, words) => {
  const result = compiled(pace);
  expect(result.ok ? [] : result.problems).toMatchObject([{ place: 'pace', code: 'rule.pace' }]);
  expect(!result.ok && result.problems[0]!.message).toContain(words);
});

test('a rule that reacts has no other pace than with the save', () => {
  const map = {
    rows: [
      { operator: '>', than: { amount: '5', currency: 'GBP' }, writes: { amount: '5', currency: 'GBP' } },
    ],
    otherwise: { kind: 'asItIs' },
  };
  expect(compiled('withTheSave', { map }).ok).toBe(true);
  const result = compiled('soonAfter', { map });
  expect(!result.ok && result.problems[0]!.message).toContain('acts with the save');
});
