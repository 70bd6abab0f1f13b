import { safePath } from './safe-path';

test.each([
  ['/w/wrenfield/rules?kind=rollUp#at', '/w/wrenfield/rules?kind=rollUp#at'],
  [null, '/'],
  ['', '/'],
  ['https://evil.example', '/'],
  ['//evil.example', '/'],
  ['/\\evil.example', '/'],
  ['/\t/evil.example', '/'],
  ['javascript:alert(1)', '/'],
  ['/sign-in?to=/sign-in', '/'],
  ['/welcome#x', '/'],
])('from signing in %j leads to %j', (to, path) => expect(safePath(to)).toBe(path));
