import { type Field, readModel } from '@/core/model';
import { fieldOf, rollUp, rowOf, uuid } from '@/core/testing/galleries';
import { edit, numbered, RuleDesk } from '@/core/testing/rule-desk';
import { down } from '@/core/testing/touring';

const yesNo = (key: string, name: string): Field => ({ key, name, type: { kind: 'yesNo' } });
const model = readModel({
  types: [
    {
      ...{ key: 'crate', name: 'Crate', plural: 'Crates', title: 'title' },
      fields: [
        { key: 'title', name: 'Title', type: { kind: 'text' } },
        {
          ...{ key: 'inside', name: 'Inside', otherEnd: 'Crates inside', whenParentGoes: 'clear' },
          type: { kind: 'link', target: 'crate' },
        },
        yesNo('damaged', 'Damaged'),
        yesNo('sound', 'Nothing damaged'),
      ],
    },
  ],
});
/** None of a crate and all that lies in it is damaged. */
const SOUND = rollUp({
  ...{ type: 'crate', target: 'sound', aggregate: 'none', route: [down('crate', 'inside')] },
  ...{ value: fieldOf('sound'), own: { adds: fieldOf('damaged') }, whenNone: true },
});
const [outer, middle, inner, other] = ['1', '2', '3', '4'].map(uuid) as [string, string, string, string];

test('none, all the way down, is of all that lies beneath', () => {
  const desk = new RuleDesk(model, numbered([SOUND]), [
    rowOf(model, 'crate', outer, { damaged: false }),
    rowOf(model, 'crate', middle, { inside: outer, damaged: false }),
    rowOf(model, 'crate', inner, { inside: middle, damaged: false }),
    rowOf(model, 'crate', other, { inside: outer }),
  ]);
  const sound = () => [outer, middle, inner, other].map((id) => desk.at('crate', id, 'sound'));
  desk.run([edit('crate', inner, { damaged: true })]);
  expect(sound()).toEqual([false, false, false, null]);
  desk.run([edit('crate', other, { damaged: false }), edit('crate', inner, { inside: other })]);
  expect(sound()).toEqual([false, true, false, false]);
  desk.run([edit('crate', inner, { damaged: false })]);
  expect(sound()).toEqual([true, true, true, true]);
});
