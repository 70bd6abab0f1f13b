import { FOLDING } from '@/core/values';
import type { ValuePlaces } from './sql';

/**
 * Text as `fold` has it, so that texts are the same whatever their case. Text without letters beyond ASCII, which most is, is folded by
 * lower(), which under "C" knows no others.
 */
export const foldedSql = (sql: string, binds: ValuePlaces): string =>
  `(CASE WHEN octet_length(${sql}) = char_length(${sql}) THEN lower(${sql} COLLATE "C")
      ELSE translate(${sql}, ${binds.add(FOLDING.from, 'text')}, ${binds.add(FOLDING.to, 'text')}) END)`;
