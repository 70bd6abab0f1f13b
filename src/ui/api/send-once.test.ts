import type { ProblemCode } from '@/core/values';
import { ApiProblem } from './problem';
import { sendOnce } from './send-once';

const failure = (code: ProblemCode) => new ApiProblem(503, code, '', '', []);
const noWait = () => Promise.resolve();

test('what isn’t answered is sent again with the same key, what is sent anew with another', async () => {
  const keys: string[] = [];
  const failures: ProblemCode[] = ['server.away', 'save.unknown', 'busy'];
  const send = (headers: Readonly<Record<string, string>>) => {
    keys.push(headers['Idempotency-Key']!);
    const code = failures.shift();
    return code ? Promise.reject(failure(code)) : Promise.resolve('saved');
  };
  expect(await sendOnce(send, noWait)).toBe('saved');
  expect(keys).toHaveLength(4);
  expect(new Set(keys).size).toBe(1);
  expect(keys[0]).toMatch(/^"[0-9a-f-]{36}"$/);
  await sendOnce(send, noWait);
  expect(new Set(keys).size).toBe(2);
});

test('a refusal is told at once, and a server that stays away in the end', async () => {
  let sent = 0;
  const always = (code: ProblemCode) => () => {
    sent += 1;
    return Promise.reject(failure(code));
  };
  await expect(sendOnce(always('edit.version'), noWait)).rejects.toMatchObject({ code: 'edit.version' });
  expect(sent).toBe(1);
  await expect(sendOnce(always('server.away'), noWait)).rejects.toMatchObject({ code: 'server.away' });
  expect(sent).toBe(5);
});
