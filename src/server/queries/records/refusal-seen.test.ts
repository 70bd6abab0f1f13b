import type { Sight } from '@/core/model';
import { Refusal, type RefusedPart, refuse } from '@/server/refusal';
import { refusalSeen } from './refusal-seen';

/** Loans without their numbers. */
const SIGHT: Sight = new Map([
  [
    'loan',
    { add: true, change: true, delete: true, export: true, fields: { number: 'hidden' }, where: null },
  ],
  ['urn', null],
]);

const taken = (place: string): RefusedPart => ({
  ...{ code: 'value.taken', place, index: 0, data: { type: 'loan', record: 'secret-id' } },
  message:
    'Title: “Robe” stands in another Loan already (Secret loan), and no two may have the same. Enter another.',
});
const length: RefusedPart = { code: 'value.length', place: 'title', index: 1, message: 'Too long.' };
const children: RefusedPart = {
  ...{ code: 'delete.children', place: 'id', index: 0, data: { type: 'urn', count: 3 } },
  message: '“Robe” can’t be deleted: 3 Urns still name it.',
};

test.each<[string, Refusal, [string, string, string?][]]>([
  [
    'what is wrong with what was sent is told as it is',
    refuse(422, [length]),
    [['value.length', 'Too long.', 'title']],
  ],
  [
    'that a value is taken is told, not by what',
    refuse(409, [taken('title')]),
    [
      [
        'value.taken',
        'This value stands in another record already, and no two may have the same. Enter another.',
        'title',
      ],
    ],
  ],
  ['of a field that isn’t seen not even that', refuse(409, [taken('number')]), []],
  ['nothing is told of records that aren’t seen', refuse(409, [children]), []],
  [
    'of several problems what can be told is',
    refuse(409, [length, children]),
    [['value.length', 'Too long.', 'title']],
  ],
  [
    'that a rule keeps a field is told, not which',
    refuse(422, [
      { code: 'edit.kept', message: 'Kept by “Urns in it”.', place: 'total', data: { name: 'Urns in it' } },
    ]),
    [['edit.kept', 'A rule keeps this field, so it isn’t entered. Leave it out.', 'total']],
  ],
  ['a circle of rules names no record', new Refusal(422, 'run.circle', '“Urn 3” would go round.'), []],
])('%s', (_, refusal, expected) => {
  const seen = refusalSeen(refusal, SIGHT);
  expect(seen.status).toBe(refusal.status);
  expect(seen.parts.map(({ code, message, place }) => [code, message, place])).toEqual(expected);
  const whole = JSON.stringify([seen.message, seen.parts, seen.data]);
  for (const secret of ['Secret loan', 'secret-id', 'Urn', 'urn']) expect(whole).not.toContain(secret);
  const isAllTold = expected.length === Math.max(refusal.parts.length, 1);
  expect(seen.code === 'sight.refused').toBe(!isAllTold);
  if (!isAllTold) expect(seen.message).toMatch(/something that you don’t see here. Nothing was saved/);
});

test('what has no parts and speaks of the request alone stays', () => {
  const busy = new Refusal(503, 'save.busy', 'Too many people are changing these records at once.');
  expect(refusalSeen(busy, SIGHT)).toBe(busy);
});
