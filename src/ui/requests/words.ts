import type { RequestView } from '@/core/api';
import { displayValue } from '@/core/values';

/** `1 Apr 2027`. */
export const dayWords = (day: string): string => displayValue({ kind: 'date' }, day);

/** `5 of 8 met`. */
export const metWords = (requests: readonly RequestView[]): string =>
  `${requests.filter(({ standing }) => standing.isMet).length} of ${requests.length} met`;
