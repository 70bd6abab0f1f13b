import { typeIn } from '@/core/model';
import type { FoundRecord } from '@/core/api';
import { database } from '@/server/database/connection';
import { makeSoon, searchIndex } from '@/server/store/schema/list-index';
import { Binds, columnOf, run, tableOf } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { titleHoldsSql } from './list-records';

/** Most records of one type that a search over everything answers. */
const MOST_OF_TYPE = 6;

/** Records of every type whose title holds a text, whatever the case: those that begin with it first. */
export async function searchEverything(workspace: LoadedWorkspace, text: string): Promise<FoundRecord[]> {
  const wanted = text.trim();
  if (wanted === '') return [];
  const found = await Promise.all(
    workspace.model.types.map(async ({ key, name }): Promise<FoundRecord[]> => {
      if (!workspace.sight) makeSoon(searchIndex(workspace, key));
      const title = `t.${columnOf(typeIn(workspace.model, key).title)}`;
      const binds = new Binds();
      const holds = titleHoldsSql(workspace.model, key, wanted, binds);
      const begins = `starts_with(lower(${title}), lower(${binds.add(wanted.normalize('NFC'), 'text')}))`;
      const rows = await database().transaction((transaction) =>
        run<{ id: string; title: string }>(
          transaction,
          `SELECT t.id::text, ${title} AS title FROM ${tableOf(workspace.schema, key)} t
            WHERE t.deleted_run IS NULL AND ${holds} ORDER BY ${begins} DESC, ${title}, t.id LIMIT ${MOST_OF_TYPE}`,
          binds.values,
        ),
      );
      return rows.map((row) => ({ type: key, typeName: name, ...row }));
    }),
  );
  return found.flat();
}
