/** How a workspace or a person writes numbers and dates. What is typed is read by it, and what is shown is shown by it. */
export interface Form {
  /** What stands before decimal places. */
  readonly decimal: '.' | ',';
  /** What stands between thousands; another mark than the decimal one. */
  readonly grouping: ',' | '.' | ' ' | '’';
  readonly dates: 'dayFirst' | 'monthFirst';
}

/** The form of texts that programs read, and of everybody who chose no other: `1,250.50`, `14 Mar 2026`. */
export const PLAIN_FORM: Form = { decimal: '.', grouping: ',', dates: 'dayFirst' };

export const DECIMAL_MARKS = ['.', ','] as const satisfies readonly Form['decimal'][];
export const GROUPING_MARKS = [',', '.', ' ', '’'] as const satisfies readonly Form['grouping'][];
export const DATE_ORDERS = ['dayFirst', 'monthFirst'] as const satisfies readonly Form['dates'][];

/** The ways to write numbers that there are: each decimal mark with each other mark between thousands. */
export const NUMBER_FORMS: readonly Pick<Form, 'decimal' | 'grouping'>[] = DECIMAL_MARKS.flatMap((decimal) =>
  GROUPING_MARKS.filter((grouping) => grouping !== decimal).map((grouping) => ({ decimal, grouping })),
);

export const sameForm = (a: Form, b: Form): boolean =>
  a.decimal === b.decimal && a.grouping === b.grouping && a.dates === b.dates;

/** One word for a form, as it travels in a header or a cookie: `,.dayFirst`, a blank as `_`, an apostrophe as `'`. */
export const formKey = ({ decimal, grouping, dates }: Form): string =>
  `${decimal}${grouping === ' ' ? '_' : grouping === '’' ? "'" : grouping}${dates}`;

/** The form of such a word; nothing where it is none. */
export function formOfKey(key: string): Form | null {
  for (const numbers of NUMBER_FORMS)
    for (const dates of DATE_ORDERS) {
      const form = { ...numbers, dates };
      if (formKey(form) === key) return form;
    }
  return null;
}

/** A form by examples: `1,250.50 and 31 Dec 2026`. */
export const formWords = (form: Form): string =>
  `${writeDigits('1250.50', form)} and ${writeDate('2026-12-31', form)}`;

let source: () => Form = () => PLAIN_FORM;

/**
 * Says whose form values are shown by: in a browser that of whoever sits before it, on the server that of the request that is being answered.
 * Nothing that is stored or compared hangs on it.
 */
export const writeBy = (form: () => Form): void => {
  source = form;
};

/** The form that values are shown by at present. */
export const formInUse = (): Form => source();

const NO_BREAK_SPACE = '\u00a0';

/** Digits (`-1250.5`) as they are written: `-1.250,5`. */
export function writeDigits(digits: string, { decimal, grouping }: Form = formInUse()): string {
  const [whole = '', places] = digits.split('.');
  const mark = grouping === ' ' ? NO_BREAK_SPACE : grouping;
  const text = whole.replace(/\B(?=(\d{3})+$)/g, mark);
  return places === undefined ? text : `${text}${decimal}${places}`;
}

/** A whole number of records, rows or the like: `12,500`. */
export const writeCount = (number: number): string => writeDigits(String(number));

export const SHORT_MONTHS = [
  'Jan',
  'Feb',
  'Mar',
  'Apr',
  'May',
  'Jun',
  'Jul',
  'Aug',
  'Sep',
  'Oct',
  'Nov',
  'Dec',
] as const;

/** A civil date (`2026-03-14`) as it is written: `14 Mar 2026`, or `Mar 14, 2026` with the month first. */
export function writeDate(date: string, { dates }: Form = formInUse()): string {
  const [year, month, day] = date.split('-').map(Number);
  const name = SHORT_MONTHS[Number(month) - 1];
  return dates === 'dayFirst' ? `${day} ${name} ${year}` : `${name} ${day}, ${year}`;
}
