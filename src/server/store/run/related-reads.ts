import { type Need } from '@/core/engine';
import { columnOf, tableOf } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

type RelatedNeed = Extract<Need, { kind: 'related' }>;
type Found = Promise<Record<string, unknown>[]>;

/** Most records beneath which it is remembered what lies there. */
const MOST_ALIKE = 50;

/** What lies beneath records, as the database has it, in which what is pending isn't yet. Where few are asked about the same is asked once. */
export class RelatedReads {
  /** Since the last lock and flush. */
  #asked = new Map<string, { readonly need: RelatedNeed; readonly found: Found }>();

  constructor(
    private readonly workspace: LoadedWorkspace,
    private readonly ask: (text: string, values: readonly unknown[]) => Found,
  ) {}

  /** What was asked stands otherwise from here on; answers what that was. */
  forget(): RelatedNeed[] {
    const asked = [...this.#asked.values()];
    this.#asked = new Map();
    return asked.map(({ need }) => need);
  }

  find(need: RelatedNeed): Found {
    const { parents, link, most } = need;
    const key =
      parents.ids.length > MOST_ALIKE ? null : `${link.type}.${link.link} ${most} ${parents.ids.join(' ')}`;
    const known = key === null ? undefined : this.#asked.get(key);
    if (known) return known.found;
    const column = columnOf(link.link);
    const of = `FROM ${tableOf(this.workspace.schema, link.type)} WHERE ${column} = ANY($1::uuid[]) AND deleted_run IS NULL`;
    const all = `SELECT id::text, ${column}::text AS parent ${of}`;
    // Of more than are wanted comes one row without an id in place of them all.
    const upTo = `WITH much AS MATERIALIZED (SELECT count(*) > $2 AS is_more FROM (SELECT ${of} LIMIT $2 + 1) x)
      ${all} AND NOT (SELECT is_more FROM much) UNION ALL SELECT NULL, NULL FROM much WHERE is_more`;
    const [text, values] = most === undefined ? [all, [parents.ids]] : [upTo, [parents.ids, most]];
    const found = this.ask(text, values);
    found.catch(() => undefined); // told where it is waited for
    if (key !== null) this.#asked.set(key, { need, found });
    return found;
  }
}
