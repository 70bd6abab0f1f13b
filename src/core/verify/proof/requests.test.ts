import { type RequestedRule, requestStanding } from '@/core/verify';

const rule = (more: Partial<RequestedRule> = {}): RequestedRule => ({
  ...{ id: 'r', name: 'Insured total', state: 'live', hasChangesNotLive: false, isPilot: false },
  proofs: [{ id: 'p', name: 'Agreed loans count', isHeld: true }],
  ...more,
});
const POINT = { text: 'Only agreed loans count', proofs: ['p'] };
const wanting = (...of: Parameters<typeof requestStanding>) =>
  requestStanding(...of).wanting.map(({ words }) => words);

test('a request is met where each rule is live and proven, and each point is shown', () => {
  expect(requestStanding([POINT], [rule()])).toEqual({ isMet: true, wanting: [], points: [true] });
  expect(requestStanding([], [rule(), rule({ id: 's' })]).isMet).toBe(true);
});

test('what is missing is named', () => {
  expect(wanting([], [])).toEqual(['No rule is written for it yet.']);
  expect(wanting([], [rule({ state: 'draft' })])).toEqual(['“Insured total” isn’t live yet.']);
  expect(wanting([], [rule({ state: 'paused', proofs: [] })])).toEqual([
    '“Insured total” is paused.',
    '“Insured total” has no proof.',
  ]);
  expect(wanting([], [rule({ isPilot: true })])).toEqual([
    '“Insured total” runs as a pilot only; take it live for all.',
  ]);
  expect(wanting([], [rule({ hasChangesNotLive: true })])).toEqual([
    '“Insured total” was changed since it is live; take the change live too.',
  ]);
});

test('a point is shown by proofs of its rules, all of which hold', () => {
  const failing = rule({
    proofs: [
      { id: 'p', name: 'a', isHeld: true },
      { id: 'q', name: 'b', isHeld: false },
    ],
  });
  expect(wanting([{ ...POINT, proofs: ['p', 'q'] }], [failing])).toEqual([
    '1 of 2 proofs of “Insured total” doesn’t hold.',
    'A proof that shows it doesn’t hold: Only agreed loans count',
  ]);
  const gone = requestStanding([POINT, { ...POINT, proofs: ['gone'] }, { ...POINT, proofs: [] }], [rule()]);
  expect(gone.points).toEqual([true, false, false]);
  expect(gone.isMet).toBe(false);
  // A proof of another rule shows nothing.
  expect(wanting([{ ...POINT, proofs: ['gone'] }], [rule()])).toEqual([
    'No proof shows it yet: Only agreed loans count',
  ]);
});
