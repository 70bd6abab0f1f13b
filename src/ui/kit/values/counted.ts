/** `1 record`, `1,250 records`. */
export const counted = (number: number, one: string, many: string): string =>
  `${number.toLocaleString('en-GB')} ${number === 1 ? one : many}`;
