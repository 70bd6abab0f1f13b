import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';
import { Refusal } from '@/server/refusal';
import { numberSetting } from '@/server/setting';

/** Who asks, as far as requests are counted. */
export type Counted = 'person' | 'token' | 'stranger';

/** Seconds over which requests are counted. */
const WINDOW = 60;

/** Requests in a minute, by the setting that says otherwise. Each process counts its own. */
const LIMITS: Readonly<Record<Counted, { readonly setting: string; readonly most: number }>> = {
  person: { setting: 'OIKON_RATE_PERSON', most: 1_200 },
  token: { setting: 'OIKON_RATE_TOKEN', most: 600 },
  stranger: { setting: 'OIKON_RATE_STRANGER', most: 120 },
};

const globals = globalThis as { oikonRates?: Record<Counted, RateLimiterMemory> };

const limiterOf = (who: Counted): RateLimiterMemory => {
  const made = (one: Counted) => {
    const { setting, most } = LIMITS[one];
    return new RateLimiterMemory({
      ...{ keyPrefix: one, points: numberSetting(setting, most, 999_999), duration: WINDOW },
    });
  };
  globals.oikonRates ??= { person: made('person'), token: made('token'), stranger: made('stranger') };
  return globals.oikonRates[who];
};

/** For tests: counts anew, by the settings as they are. */
export const forgetRates = (): void => void delete globals.oikonRates;

/**
 * Counts a request of a person, a token or an address; answers what is left, as the fields `RateLimit-Policy` and `RateLimit` say it
 * (draft-ietf-httpapi-ratelimit-headers). Refuses (429) what is more than may be, and says when one may again.
 */
export async function countRequest(who: Counted, key: string): Promise<Readonly<Record<string, string>>> {
  const limiter = limiterOf(who);
  let left: RateLimiterRes;
  try {
    left = await limiter.consume(key);
  } catch (error) {
    if (!(error instanceof RateLimiterRes)) throw error;
    left = error;
  }
  const wait = Math.max(1, Math.ceil(left.msBeforeNext / 1_000));
  if (left.consumedPoints <= limiter.points)
    return {
      'RateLimit-Policy': `"${who}";q=${limiter.points};w=${WINDOW}`,
      RateLimit: `"${who}";r=${left.remainingPoints};t=${wait}`,
    };
  throw new Refusal(
    429,
    'rate.exceeded',
    `Too many requests: ${limiter.points} are answered in a minute. Try again in ${wait} s.`,
    [],
    { retryAfter: wait, limit: limiter.points },
  );
}
