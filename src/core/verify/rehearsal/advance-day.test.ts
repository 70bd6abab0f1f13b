import type { RuleDefinition } from '@/core/rules';
import { rowOf, uuid } from '@/core/testing/galleries';
import { numbered, RuleDesk } from '@/core/testing/rule-desk';
import { LATE, REMINDER, SEEN_LATE, signing } from '@/core/testing/signing';
import { advanceDayIn } from '@/core/verify';

const model = signing();
const [tax, rent] = [uuid('11'), uuid('12')];
const ROWS = [
  rowOf(model, 'file', tax, { title: 'Tax', due: '2027-04-01' }),
  rowOf(model, 'file', rent, { title: 'Rent', due: '2027-05-01' }),
];

describe('the day turns', () => {
  const rules = numbered<RuleDefinition>([LATE, SEEN_LATE, REMINDER]);
  const turn = (from: ReturnType<typeof advanceDayIn> | null, day: string) => {
    const { store } = new RuleDesk(model, rules, ROWS).run([], { fill: [rules[0]!.id] });
    let ids = from ? 60 : 50;
    const newId = () => uuid(String((ids += 1)));
    const input = { live: rules, drafts: [], names: {}, newId };
    const at = from ? { model: from.model, store: from.after } : { model, store };
    return advanceDayIn({ ...input, ...at }, day, `${day}T12:00:00.000Z`);
  };
  const reminders = ({ after }: ReturnType<typeof advanceDayIn>) =>
    [...after.rows('reminder')].filter(({ deleted }) => !deleted).map(({ values }) => values);

  test('what comes to hold is acted on: a change is cascaded, and a record made, by nobody', () => {
    const april = turn(null, '2027-04-02');
    expect(april.after.row('file', tax)!.values).toMatchObject({
      ...{ late: true, seenLate: '2027-04-02T12:00:00.000Z' },
    });
    expect(reminders(april)).toMatchObject([{ file: tax, madeBy: null, madeAt: '2027-04-02T12:00:00.000Z' }]);
    expect(april.after.row('file', rent)!.values).toMatchObject({ late: false, seenLate: null });
    expect(april.ripple!.waves.map(({ number }) => number)).toEqual([1, 2]);
    const may = turn(april, '2027-05-02');
    expect(reminders(may)).toHaveLength(2);
  });

  test('back again what it made is removed, as the rule says; the same day changes nothing', () => {
    const april = turn(null, '2027-04-02');
    expect(reminders(turn(april, '2027-03-31'))).toEqual([]);
    expect(turn(null, '2027-04-01').ripple!.waves).toEqual([]);
  });
});
