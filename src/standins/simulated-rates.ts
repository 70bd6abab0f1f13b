import type { RateOfDay, RateService } from '@/server/rate-service';

/** Pairs that it knows, each with the rate around which it moves, in ten-thousandths. */
const PAIRS: readonly (readonly [pair: string, around: number])[] = [
  ['EUR/GBP', 8_600],
  ['USD/GBP', 7_900],
  ['CHF/GBP', 8_900],
  ['GBP/EUR', 11_600],
  ['USD/EUR', 9_200],
  ['CHF/EUR', 10_400],
];

const DAY = 86_400_000;

/** A number of 0 to 199 that depends on nothing but the day and the pair. */
function wobble(day: number, at: number): number {
  let mixed = (day * 2_654_435_761 + at * 40_503) >>> 0;
  mixed = Math.imul(mixed ^ (mixed >>> 15), 2_246_822_507) >>> 0;
  return (mixed ^ (mixed >>> 13)) % 200;
}

/**
 * Stands in for a service that publishes rates of currencies: made-up ones, the same for a day whenever it is asked, to four places, and
 * none at weekends.
 */
export const simulatedRates: RateService = {
  name: 'simulated',
  ratesOn: (day: string): Promise<RateOfDay[]> => {
    const moment = new Date(`${day}T00:00:00Z`);
    const isWeekend = [0, 6].includes(moment.getUTCDay());
    if (isWeekend) return Promise.resolve([]);
    const number = Math.round(moment.getTime() / DAY);
    return Promise.resolve(
      PAIRS.map(([pair, around], at) => ({
        pair,
        day,
        rate: ((around + wobble(number, at) - 100) / 10_000).toFixed(4),
      })),
    );
  },
};
