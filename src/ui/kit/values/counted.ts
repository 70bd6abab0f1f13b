import { writeCount } from '@/core/values';

/** `1 record`, `1,250 records`. */
export const counted = (number: number, one: string, many: string): string =>
  `${writeCount(number)} ${number === 1 ? one : many}`;
