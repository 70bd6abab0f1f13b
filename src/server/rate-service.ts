/** So many of the second currency for one of the first (`EUR/GBP`), on a day. */
export interface RateOfDay {
  readonly pair: string;
  readonly day: string;
  /** Digits. */
  readonly rate: string;
}

/** Publishes rates of currencies. */
export interface RateService {
  readonly name: string;
  /** The rates of a day; none where there are none, as at weekends. */
  readonly ratesOn: (day: string) => Promise<readonly RateOfDay[]>;
}
