import { refusal } from '@/server/testing/refusal';
import { countRequest, forgetRates } from './rates';

beforeEach(() => {
  process.env.OIKON_RATE_TOKEN = '3';
  forgetRates();
});
afterAll(() => {
  delete process.env.OIKON_RATE_TOKEN;
  forgetRates();
});

test('each token has so many requests in a minute, is told what is left, and then when it may again', async () => {
  const left = [];
  for (let asked = 1; asked <= 3; asked += 1) left.push((await countRequest('token', 'a')).RateLimit);
  expect(left).toEqual([
    expect.stringMatching(/^"token";r=2;t=\d+$/),
    expect.stringMatching(/^"token";r=1;t=\d+$/),
    expect.stringMatching(/^"token";r=0;t=\d+$/),
  ]);
  const refused = await refusal(countRequest('token', 'a'));
  expect(refused).toMatchObject({ status: 429, code: 'rate.exceeded', data: { limit: 3 } });
  expect(refused.message).toMatch(/^Too many requests: 3 are answered in a minute\. Try again in \d+ s\.$/);
  // Others aren't held back by it.
  expect((await countRequest('token', 'b'))['RateLimit-Policy']).toBe('"token";q=3;w=60');
  expect((await countRequest('person', 'a')).RateLimit).toMatch(/^"person";r=1199;/);
});
