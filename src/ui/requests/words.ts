import type { RequestView } from '@/core/api';

/** `5 of 8 met`. */
export const metWords = (requests: readonly RequestView[]): string =>
  `${requests.filter(({ standing }) => standing.isMet).length} of ${requests.length} met`;
