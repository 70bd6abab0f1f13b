import type { RunHead } from '@/core/api';
import { readColumn } from '@/server/store/sql/sql';
import type { RunInfo } from '@/server/store/write/run-row';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/** A row of `run`, as `RUN_COLUMNS` reads it. */
export interface StoredRun {
  readonly run: string;
  readonly at: string;
  readonly kind: RunInfo['kind'];
  readonly person: string | null;
  readonly note: string;
}

/** An instant in the form in which it travels. */
export const instantSql = (sql: string): string => readColumn({ kind: 'dateTime' }, sql);

/** The columns of a run under the alias `r`. */
export const RUN_COLUMNS = `r.id::text AS run, ${instantSql('r.at')} AS at, r.kind, r.person::text, r.note`;

/** Who did something: a person's name, or nobody where it was the program. */
export const personName = ({ people }: LoadedWorkspace, id: string | null): string | null =>
  id === null ? null : (people.get(id) ?? id);

/** What a run was, with the name of who started it. */
export const headOf = (workspace: LoadedWorkspace, { run, at, kind, person, note }: StoredRun): RunHead => ({
  run,
  at,
  kind,
  note,
  person: personName(workspace, person),
});
