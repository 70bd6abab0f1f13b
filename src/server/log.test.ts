import { errorForLog } from './log';

test('a log tells what went wrong and where, and nothing of the rows that it is about', () => {
  const failed = Object.assign(new Error('duplicate key value violates unique constraint "_one_abc"'), {
    ...{
      code: '23505',
      constraint: '_one_abc',
      table: 'loan',
      detail: 'Key (title)=(Secret robe) already exists.',
    },
    ...{ where: 'COPY loan, line 3: "Secret"', parameters: ['Secret'], sql: "SELECT 'Secret'" },
  });
  const told = errorForLog(
    Object.assign(new Error('wrapped'), { parent: failed, sql: 'Secret', parameters: ['Secret'] }),
  );
  expect(told).toMatchObject({
    message: 'wrapped',
    cause: { code: '23505', constraint: '_one_abc', table: 'loan' },
  });
  expect(JSON.stringify(told)).not.toContain('Secret');
  const unread = errorForLog(new Error('invalid input syntax for type numeric: "Secret 12"'));
  expect(unread.message).toBe('invalid input syntax for type numeric: …');
  expect(JSON.stringify(unread)).not.toContain('Secret');
});
