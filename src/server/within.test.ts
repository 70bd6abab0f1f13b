import { within } from './within';

const late = () => new Error('Too late.');
const never = () => new Promise<never>(() => undefined);

test('what comes in time is answered or fails as it does, what doesn’t is late', async () => {
  await expect(within(Promise.resolve('here'), 10_000, late)).resolves.toBe('here');
  await expect(within(Promise.reject(new Error('Broken.')), 10_000, late)).rejects.toThrow('Broken.');
  await expect(within(never(), 1, late)).rejects.toThrow('Too late.');
});
