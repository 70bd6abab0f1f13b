import type { Field } from '@/core/model';
import { wireSql } from './fill';
import type { Binds } from '@/server/store/sql/sql';

/** A field of a record that a statement writes: the SQL of what stood there, and of what does then. */
export interface WrittenField {
  readonly field: Field;
  readonly before: string;
  readonly after: string;
}

/** The ledger's `changes` of one record: the fields that come out otherwise, in the form in which values travel. */
export const changesSql = (fields: readonly WrittenField[], binds: Binds): string =>
  fields
    .map(({ field: { key, type }, before, after }) => {
      const pair = `jsonb_build_array(${wireSql(type, before)}, ${wireSql(type, after)})`;
      return `CASE WHEN ${before} IS DISTINCT FROM ${after}
        THEN jsonb_build_object(${binds.add(key, 'text')}, ${pair}) ELSE '{}' END`;
    })
    .join(' || ');
