import type { ValueType } from './value';

/** ISO 4217 active codes whose minor unit isn't 1/100, with their number of places. */
const PLACES: Readonly<Record<string, number>> = {
  BHD: 3,
  BIF: 0,
  CLF: 4,
  CLP: 0,
  DJF: 0,
  GNF: 0,
  IQD: 3,
  ISK: 0,
  JOD: 3,
  JPY: 0,
  KMF: 0,
  KRW: 0,
  KWD: 3,
  LYD: 3,
  OMR: 3,
  PYG: 0,
  RWF: 0,
  TND: 3,
  UGX: 0,
  UYI: 0,
  UYW: 4,
  VND: 0,
  VUV: 0,
  XAF: 0,
  XOF: 0,
  XPF: 0,
};

/** ISO 4217 active codes of circulating currencies. */
const CODES = new Set(
  (
    'AED AFN ALL AMD ANG AOA ARS AUD AWG AZN BAM BBD BDT BGN BHD BIF BMD BND BOB BRL BSD BTN BWP BYN BZD CAD CDF CHF CLF ' +
    'CLP CNY COP CRC CUP CVE CZK DJF DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GNF GTQ GYD HKD HNL HTG HUF ' +
    'IDR ILS INR IQD IRR ISK JMD JOD JPY KES KGS KHR KMF KPW KRW KWD KYD KZT LAK LBP LKR LRD LSL LYD MAD MDL MGA MKD MMK ' +
    'MNT MOP MRU MUR MVR MWK MXN MYR MZN NAD NGN NIO NOK NPR NZD OMR PAB PEN PGK PHP PKR PLN PYG QAR RON RSD RUB RWF SAR ' +
    'SBD SCR SDG SEK SGD SHP SLE SOS SRD SSP STN SVC SYP SZL THB TJS TMT TND TOP TRY TTD TWD TZS UAH UGX USD UYI UYU UYW ' +
    'UZS VED VES VND VUV WST XAF XCD XCG XOF XPF YER ZAR ZMW ZWG'
  ).split(' '),
);

export const isCurrency = (code: string): boolean => CODES.has(code);

/** Decimal places of a currency's amounts (ISO 4217 minor unit): 2 for most, 0 for JPY, 3 for KWD. */
export const currencyPlaces = (code: string): number => PLACES[code] ?? 2;

/** Every code, in order. */
export const CURRENCIES: readonly string[] = [...CODES].sort();

/** Currencies that are much used beside those of a model's own fields. */
const COMMON = ['EUR', 'GBP', 'USD', 'CHF', 'JPY'];

/** The currencies of kinds of fields, in their order, and after them those that are much used. */
export const currenciesIn = (types: readonly ValueType[]): string[] => [
  ...new Set([...types.flatMap((type) => (type.kind === 'money' ? [type.currency] : [])), ...COMMON]),
];
