import type { Expression } from '@/core/expression';
import { listRecords, type ListInput } from '@/server/queries/records/list-records';
import { makeIndex, orderIndex, searchIndex } from '@/server/store/schema/list-index';
import { loadWorkspace } from '@/server/store/session/workspace';
import { Client } from 'pg';
import { exhibitionId, workspaceOf } from './data';
import { compare, type Figure, timed } from './measure';

const KEY = 'bench-lists';
const LOANS = 1_000_000;
/** Milliseconds in which the first rows of a list must be there. */
const LIMIT = 200;

const field = (name: string, ...route: string[]): Expression => ({ kind: 'field', route, field: name });

const LISTS: readonly (readonly [string, Partial<ListInput>])[] = [
  ['by title', {}],
  ['of one exhibition', { filter: { exhibition: exhibitionId(77) } }],
  [
    'where a choice is something',
    {
      condition: {
        ...{ kind: 'compare', operator: '=', left: field('stage') },
        right: { kind: 'constant', value: 'declined' },
      },
    },
  ],
  [
    'by a condition up a route',
    {
      condition: {
        ...{ kind: 'match', operator: 'contains', operand: field('title', 'exhibition') },
        part: { kind: 'constant', value: '77' },
      },
    },
  ],
  ['sorted by an amount, with an index from earlier use', { sort: 'insuredValue', descending: true }],
  ['sorted by a date, with an index from earlier use', { sort: 'dueBack' }],
  ['sorted by a choice, for the first time', { sort: 'stage' }],
  ['searched in titles, with an index from earlier use', { search: 'oan 77123' }],
];

/** First pages of lists of a million records, each with its count, against the time in which they must be there. */
export async function benchLists(url: string): Promise<Figure[]> {
  const scale = { exhibitions: 10_000, loans: LOANS, exhibitionOf: (at: number) => at % 10_000, rules: [] };
  await workspaceOf({ key: KEY, ...scale });
  const workspace = await loadWorkspace(KEY);
  const client = new Client({ connectionString: url });
  await client.connect();
  for (const table of ['loan', 'exhibition'])
    await client.query(`VACUUM ANALYZE "${workspace.schema}".${table}`);
  await client.end();
  for (const by of ['"insured_value"', '"due_back"']) await makeIndex(orderIndex(workspace, 'loan', by));
  await makeIndex(searchIndex(workspace, 'loan'));
  const figures: Figure[] = [];
  for (const [words, given] of LISTS) {
    figures.push(
      await compare({
        work: `first 100 of 1,000,000 loans, ${words}`,
        ...{ must: words.endsWith('first time') ? null : 1, goal: null, rounds: 9, warmUp: 1 },
        note: `against ${LIMIT} ms`,
        ours: () =>
          timed(() =>
            listRecords(workspace, { type: 'loan', filter: {}, descending: false, limit: 100, ...given }),
          ),
        theirs: async () => LIMIT,
      }),
    );
  }
  return figures;
}
