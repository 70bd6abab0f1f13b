import { Gate, mostConnections } from './gates';

const gate = (atOnce: number, waiting: number, patience = 1_000) =>
  new Gate('long', { atOnce, waiting, patience });
/** Whether something has come to pass once everything that is under way was let go on. */
const hasHappened = async (of: Promise<unknown>): Promise<boolean> => {
  let is = false;
  of.then(
    () => (is = true),
    () => undefined,
  );
  await new Promise((resolve) => setImmediate(resolve));
  return is;
};

test('so many are let in at once, the others in the order in which they came', async () => {
  const one = gate(2, 5);
  const [first, second] = [await one.enter(), await one.enter()];
  const [third, fourth] = [one.enter(), one.enter()];
  expect([await hasHappened(third), await hasHappened(fourth)]).toEqual([false, false]);
  first();
  expect([await hasHappened(third), await hasHappened(fourth)]).toEqual([true, false]);
  second();
  expect(await hasHappened(fourth)).toBe(true);
  (await third)();
  (await fourth)();
  expect(await hasHappened(one.enter())).toBe(true);
});

test('who leaves twice gives one turn back', async () => {
  const one = gate(1, 5);
  const leave = await one.enter();
  leave();
  leave();
  await one.enter();
  expect(await hasHappened(one.enter())).toBe(false);
});

test('where too many wait, or it takes too long, it is told so with when to come again', async () => {
  const busy = { status: 503, code: 'busy', data: { retryAfter: 5 } };
  const one = gate(1, 1, 30);
  const leave = await one.enter();
  const waits = one.enter();
  await expect(one.enter()).rejects.toMatchObject(busy);
  await expect(waits).rejects.toMatchObject(busy);
  // Who was told so isn't let in later on: the turn is the next one's.
  leave();
  expect(await hasHappened(one.enter())).toBe(true);
});

test('the process has a connection for each that it lets in; a share that isn’t a number is refused', () => {
  const before = process.env.OIKON_LONG_WORK;
  delete process.env.OIKON_LONG_WORK;
  const usual = mostConnections();
  process.env.OIKON_LONG_WORK = '9';
  expect(mostConnections()).toBe(usual + 6);
  process.env.OIKON_LONG_WORK = 'many';
  expect(() => mostConnections()).toThrow(/OIKON_LONG_WORK.*1 to 9999.*many/);
  if (before === undefined) delete process.env.OIKON_LONG_WORK;
  else process.env.OIKON_LONG_WORK = before;
});
