import { Refusal } from '@/server/refusal';
import { checkHost, checkTarget } from './front';

test.each(['127.0.0.1', 'localhost:4410', '[::1]:80', 'LOCALHOST'])(
  '%s is a name of this machine',
  (host) => {
    expect(() => checkHost(host)).not.toThrow();
  },
);

test.each([
  null,
  '',
  '[',
  'evil@localhost',
  'localhost:',
  'localhost:99999999',
  'localhost.evil.org',
  'evil.org',
  '127.0.0.1 ',
])('a Host of %j isn’t answered', (host) => {
  expect(() => checkHost(host)).toThrow(Refusal);
});

test.each([
  ['GET', '/'],
  ['PATCH', '/api/v1/workspaces/caf%C3%A9?text=%zz'],
])('%s %s can be read', (method, target) => {
  expect(() => checkTarget(method, target)).not.toThrow();
});

test.each([
  ['TRACE', '/', 'method.unknown'],
  [undefined, '/', 'method.unknown'],
  ['GET', '/api/%E0%A4%A', 'address.form'],
  ['GET', '//evil.org/', 'address.form'],
  ['GET', 'http://evil.org/', 'address.form'],
  ['GET', undefined, 'address.form'],
])('%s %s can’t be read as a request', (method, target, code) => {
  expect(() => checkTarget(method, target)).toThrow(expect.objectContaining({ code }) as Error);
});
