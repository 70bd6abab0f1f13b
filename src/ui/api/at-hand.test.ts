import { forgetAtHand, layBy, taken } from './at-hand';

afterEach(() => {
  forgetAtHand();
  jest.useRealTimers();
});

test('what came with the page is given to the first who asks, once', async () => {
  layBy('/a', Promise.resolve(1));
  expect(await taken('/a')).toBe(1);
  expect(taken('/a')).toBeNull();
  expect(taken('/b')).toBeNull();
});

test('a page that is gone back to lays nothing by again', async () => {
  const answer = Promise.resolve(1);
  layBy('/a', answer);
  await taken('/a');
  layBy('/a', answer);
  expect(taken('/a')).toBeNull();
});

test('it isn’t given any more where something was saved since, or after a while', () => {
  layBy('/a', Promise.resolve(1));
  forgetAtHand();
  expect(taken('/a')).toBeNull();
  jest.useFakeTimers();
  layBy('/a', Promise.resolve(1));
  jest.advanceTimersByTime(6_000);
  expect(taken('/a')).toBeNull();
});
