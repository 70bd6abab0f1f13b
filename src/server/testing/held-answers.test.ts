import { wrongIn } from './held-answers';

test('an answer is held to its route’s schema', () => {
  expect(wrongIn('GET', '/health', { status: 'ok' })).toBeNull();
  expect(wrongIn('GET', '/api/v1/workspaces/any/runs', { runs: 1 })).toContain(
    'GET /api/v1/workspaces/{w}/runs',
  );
  expect(wrongIn('GET', '/health', { status: 'ok', more: 1 })).toContain(
    'must NOT have additional properties',
  );
  expect(wrongIn('GET', '/api/v1/nowhere', {})).toBe('No schema says what GET /api/v1/nowhere answers.');
});
