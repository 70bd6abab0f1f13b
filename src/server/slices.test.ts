import { inSlices } from './slices';

test('what is done in slices keeps its order, and lets others have their turn meanwhile', async () => {
  let turns = 0;
  let isDone = false;
  const others = async () => {
    while (!isDone) {
      turns += 1;
      await new Promise(setImmediate);
    }
  };
  const waiting = others();
  const until = (ends: number) => {
    while (performance.now() < ends);
  };
  const done = await inSlices([3, 1, 2], (of, at) => {
    until(performance.now() + 12);
    return `${at}: ${of}`;
  });
  isDone = true;
  await waiting;
  expect(done).toEqual(['0: 3', '1: 1', '2: 2']);
  expect(turns).toBeGreaterThan(2);
});
