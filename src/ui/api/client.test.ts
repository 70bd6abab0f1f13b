import { ApiProblem, LongAnswer } from './client';

const line = (of: unknown) => `${JSON.stringify(of)}\n`;

test('an answer of lines is told as it comes in, in whatever pieces, and ends with what came of it', () => {
  const told: unknown[] = [];
  const answer = new LongAnswer<{ changed: number }>((progress) => told.push(progress));
  const whole =
    line({ progress: { stage: 'checking' } }) +
    line({ progress: { stage: 'rules', done: 1, of: 3 } }) +
    line({ status: 201, body: { changed: 7 } });
  for (let at = 0; at <= whole.length; at += 11) answer.take(whole.slice(0, at));
  answer.take(whole);
  expect(told).toEqual([{ stage: 'checking' }, { stage: 'rules', done: 1, of: 3 }]);
  expect(answer.end()).toEqual({ changed: 7 });
});

test('what is refused on the way is thrown as any refusal is; an answer that breaks off says that the server is away', () => {
  const refused = new LongAnswer(() => undefined);
  refused.take(line({ status: 409, problem: { code: 'list.moved', detail: 'The list isn’t what it was.' } }));
  expect(() => refused.end()).toThrow(expect.objectContaining({ status: 409, code: 'list.moved' }) as Error);
  const broken = new LongAnswer(() => undefined);
  broken.take('{"progress":{"stage":"writing"}}\n{"status":2');
  expect(() => broken.end()).toThrow(ApiProblem);
});
