import { wrongIn } from './held-answers';

test('an answer is held to its route’s schema', () => {
  expect(wrongIn('GET', '/health', { status: 'ok' })).toBeNull();
  expect(wrongIn('GET', '/api/v1/workspaces/any/runs', { runs: 1 })).toContain(
    'GET /api/v1/workspaces/{w}/runs',
  );
  expect(wrongIn('GET', '/health', { status: 'ok', more: 1 })).toContain(
    'must NOT have additional properties',
  );
  const id = '018f3a5e-0000-7000-8000-000000000001';
  const people = (name: string) => ({ people: [{ id, name, role: 'r', form: null }] });
  expect(wrongIn('GET', '/api/v1/people', people('Ada'))).toBeNull();
  expect(wrongIn('GET', '/api/v1/people', people(`of ${id}`))).toContain('shows an id to people');
  expect(wrongIn('GET', '/api/v1/nowhere', {})).toBe('No schema says what GET /api/v1/nowhere answers.');
});
