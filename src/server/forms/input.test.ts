import { Refusal } from '@/server/refusal';
import { type Inputs, readInput } from './input';

const refused = (kind: keyof Inputs, input: unknown): Refusal => {
  try {
    readInput(kind, input);
  } catch (error) {
    if (error instanceof Refusal) return error;
    throw error;
  }
  throw new Error('It was taken.');
};

test.each([
  [
    'of a rule',
    'newRule',
    { definition: { kind: 'sum', type: 'loan' } },
    'definition',
    /“?kind”? one of rollUp, formula, cascade, create, link, found "sum"/,
  ],
  [
    'of a change of the model',
    'modelRehearsal',
    { changes: [{ kind: 'renameType' }] },
    'changes.0',
    /one of addType, changeType, .*, found "renameType"/,
  ],
  [
    'of a field',
    'modelRehearsal',
    {
      changes: [{ kind: 'addField', type: 'loan', field: { key: 'a', name: 'A', type: { kind: 'colour' } } }],
    },
    'changes.0.field.type',
    /one of text, longText, .*, serial, found "colour"/,
  ],
  ['of a condition', 'condition', { kind: 'every' }, '', /one of .*compare.*, found "every"/],
  [
    'of a pilot',
    'livePreview',
    { pilot: { kind: 'share' } },
    'pilot',
    /one of records, selection, found "share"/,
  ],
] as const)('an unknown kind %s is told, with the kinds that there are', (_, kind, input, place, words) => {
  const { status, code, parts } = refused(kind, input);
  expect([status, code]).toEqual([400, 'input.shape']);
  expect(parts[0]).toMatchObject({ place, message: expect.stringMatching(words) as string });
});

test('what belongs to another kind of field is told, and what its own lacks', () => {
  const type = { kind: 'money', scale: 2 };
  const changes = [{ kind: 'addField', type: 'loan', field: { key: 'a', name: 'A', type } }];
  expect(
    refused('modelRehearsal', { changes })
      .parts.map(({ place }) => place)
      .sort(),
  ).toEqual(expect.arrayContaining(['changes.0.field.type.currency', 'changes.0.field.type.scale']));
});

test('a kind that is left out is told as missing', () => {
  expect(refused('newRule', { definition: { type: 'loan' } }).parts[0]?.message).toMatch(/, found none\.$/);
});

test('every part that doesn’t fit is told by its path', () => {
  const { parts } = refused('recordPatch', { version: 0, values: [], many: 'later', other: 1 });
  expect(parts.map(({ place }) => place).sort()).toEqual(['many', 'other', 'values', 'version']);
});

test('what fits comes back with what may be left out filled in', () => {
  const plan = { format: 'csv', columns: [{ column: 'Name', field: 'name' }] };
  expect(readInput('importPlan', plan)).toMatchObject({ ...plan, separator: ',', refused: 'stop', key: [] });
});
