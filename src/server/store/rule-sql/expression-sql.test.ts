import { MemoryStore, readerOf, type Row } from '@/core/engine';
import { evaluate, type Expression, operatorsFor, typeCondition } from '@/core/expression';
import { readModel } from '@/core/model';
import { type Value, type WireValue } from '@/core/values';
import fc from 'fast-check';
import { GALLERIES, decimal, fieldOf, gbp, rowOf, uuid } from '@/core/testing/galleries';
import { database, disconnect } from '@/server/database/connection';
import { type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { expressionSql } from './expression-sql';
import { Binds, columnOf, run, tableOf } from '@/server/store/sql/sql';

const LANGUAGES = ['english', 'french', 'welsh'].map((key) => ({ key, name: key }));
const model = readModel({
  types: GALLERIES.types.map((type) =>
    type.key === 'loan'
      ? {
          ...type,
          fields: [
            ...type.fields,
            { key: 'languages', name: 'Languages', type: { kind: 'choices', options: LANGUAGES } as const },
            { key: 'seen', name: 'Seen', type: { kind: 'dateTime' } as const },
            { key: 'remarks', name: 'Remarks', type: { kind: 'longText' } as const },
            { key: 'grade', name: 'Grade', type: { kind: 'rating', lowest: 1, highest: 6 } as const },
          ],
        }
      : type,
  ),
});

const [open, closed] = [uuid('11'), uuid('12')];
const optional = <T>(from: fc.Arbitrary<T>) => fc.option(from, { freq: 3 });
const anyText = fc.constantFrom(
  'Robe',
  'robe',
  'Rôbe',
  '',
  'Robe of silk',
  '😀',
  '\uffee',
  'a_b%c',
  'it\'s \\ "so"',
);
const STAGES = ['requested', 'agreed', 'declined', 'returned'];
const anyLoan = fc.record({
  title: anyText.map((text) => text || 'x'),
  remarks: optional(anyText.map((text) => text || 'x\ny')),
  exhibition: fc.constantFrom(open, closed, null),
  stage: optional(fc.constantFrom(...STAGES)),
  insuredValue: optional(
    fc.constantFrom('0', '-0.01', '12250.00', '900.5', '99999999999999999999.99').map(gbp),
  ),
  weight: optional(fc.constantFrom('0', '1.125', '-3').map(decimal)),
  dueBack: optional(fc.constantFrom('0001-01-01', '2027-02-28', '9999-12-31')),
  languages: optional(
    fc.subarray(
      LANGUAGES.map(({ key }) => key),
      { minLength: 1 },
    ),
  ),
  seen: optional(
    fc.constantFrom('0001-01-01T00:00:00.000Z', '2026-03-29T01:30:00.123Z', '9999-12-31T23:59:59.999Z'),
  ),
  grade: optional(fc.integer({ min: 1, max: 6 }).map(decimal)),
});

const CONSTANTS: Record<string, readonly WireValue[]> = {
  title: ['Robe', 'robe', 'o', '_', '%', '😀', '\uffee', '\\'],
  remarks: ['Robe', 'robe', 'x\ny', '%'],
  stage: STAGES,
  insuredValue: [
    { amount: '0', currency: 'GBP' },
    { amount: '900.50', currency: 'GBP' },
  ],
  weight: ['1.125', '0', '-3.000'],
  dueBack: ['2027-02-28', '0001-01-01'],
  languages: LANGUAGES.map(({ key }) => key),
  seen: ['2026-03-29T02:30:00.123+01:00', '2026-03-29T01:30:00.122Z'],
  grade: [1, 3, 6],
  open: [true, false],
};

const anyTest: fc.Arbitrary<Expression> = fc.constantFrom(...Object.keys(CONSTANTS)).chain((key) => {
  const read = key === 'open' ? fieldOf('open', 'exhibition') : fieldOf(key);
  const { kind } = (key === 'open' ? model.field('exhibition', 'open') : model.field('loan', key))!.type;
  return fc
    .record({
      entry: fc.constantFrom(...operatorsFor(kind)),
      values: fc.subarray([...CONSTANTS[key]!], { minLength: 1 }),
    })
    .map(({ entry, values }): Expression => {
      const right = { kind: 'constant', value: values[0]! } as const;
      switch (entry.operator) {
        case 'isEmpty':
        case 'isNotEmpty':
          return { kind: 'presence', operator: entry.operator, operand: read };
        case 'isAmong':
        case 'isNotAmong':
          return { kind: 'among', operator: entry.operator, operand: read, options: values };
        case 'contains':
        case 'startsWith':
          return { kind: 'match', operator: entry.operator, operand: read, part: right };
        default:
          return { kind: 'compare', operator: entry.operator, left: read, right };
      }
    });
});
const { condition: anyCondition } = fc.letrec<{ condition: Expression }>((tie) => ({
  condition: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    anyTest,
    fc.record({
      kind: fc.constant('group' as const),
      operator: fc.constantFrom('all' as const, 'any' as const, 'none' as const),
      of: fc.array(tie('condition'), { maxLength: 3 }),
    }),
  ),
}));

describe('an expression in SQL', () => {
  let workspace: TestWorkspace;
  const store = new MemoryStore(model, true);
  let loans: readonly Row[];

  beforeAll(async () => {
    const sample = fc.sample(anyLoan, { numRuns: 150, seed: 7 });
    loans = sample.map((values, index) =>
      rowOf(
        model,
        'loan',
        uuid(`a${index.toString(16).padStart(3, '0')}`),
        values as unknown as Record<string, Value>,
      ),
    );
    const exhibitions = [
      rowOf(model, 'exhibition', open, { open: true }),
      rowOf(model, 'exhibition', closed, { open: false }),
    ];
    const rows = [...exhibitions, ...loans];
    rows.forEach((row) => store.put(row));
    workspace = await testWorkspace({ model, rows, rules: [] });
  });
  afterAll(async () => {
    await workspace.remove();
    await disconnect();
  });

  test('means what the evaluator says, for any condition and any record', async () => {
    const { schema } = await workspace.load();
    await fc.assert(
      fc.asyncProperty(anyCondition, async (condition) => {
        const typed = typeCondition(model, 'loan', condition);
        if (!typed.ok) throw new Error(typed.problem.message);
        const binds = new Binds();
        const sql = expressionSql(
          typed.value,
          {
            read: ({ route, field }) => `${route.length > 0 ? 'e' : 'l'}.${columnOf(field)}`,
            error: () => null,
            gather: () => ({ value: 'NULL', error: null }),
            rate: () => 'NULL',
          },
          binds,
        );
        const found = await database().transaction((transaction) =>
          run<{ id: string; holds: boolean | null }>(
            transaction,
            `SELECT l.id::text, (${sql}) AS holds FROM ${tableOf(schema, 'loan')} l LEFT JOIN ${tableOf(schema, 'exhibition')} e ON e.id = l.exhibition`,
            binds.values,
          ),
        );
        const inCore = loans.map((row) => {
          const reader = readerOf(model, store);
          const verdict = evaluate(typed.value, (field) => reader.value(row, field));
          return [row.id, verdict];
        });
        expect(Object.fromEntries(found.map(({ id, holds }) => [id, holds]))).toEqual(
          Object.fromEntries(inCore),
        );
      }),
      { numRuns: 150 },
    );
  });
});
