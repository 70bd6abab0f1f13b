import { keptCookie } from '@/app/api/asking';
import { endpoint } from '@/app/api/endpoint';
import { refuseInDemo } from '@/app/api/entering';
import { readInput } from '@/server/forms/input';
import {
  beginSecondFactor,
  removeSecondFactor,
  secondFactorOf,
  takeCode,
  wrongCode,
} from '@/server/sign-in/second-factor';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/second-factor', {
  /** What one has of a second step. */
  GET: async ({ person }) => {
    refuseInDemo();
    return { body: await secondFactorOf(person) };
  },
  /** Begins to set one up: what a phone keeps. */
  POST: async ({ person }) => {
    refuseInDemo();
    return { status: 201, body: await beginSecondFactor(person) };
  },
  /** Takes it away, by a code of it. One signs in again then. */
  DELETE: async ({ person, json, client }) => {
    refuseInDemo();
    const { code } = readInput('code', await json());
    if (!(await takeCode(person, code))) throw wrongCode();
    await removeSecondFactor(person, person, client);
    return { status: 204, cookie: keptCookie(null) };
  },
});
