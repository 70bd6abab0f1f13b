import { wholeNumber } from '@/app/api/answer';
import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { isUuid } from '@/core/values';
import { runGroupPage } from '@/server/queries/ledger/run-group-page';
import { Refusal } from '@/server/refusal';

const KINDS = ['field', 'created', 'deleted', 'restored'] as const;

export const { GET, POST, PUT, PATCH, DELETE } = endpoint(
  '/api/v1/workspaces/{w}/runs/{run}/groups/changes',
  {
    GET: async ({ params, query }) => {
      const kind = KINDS.find((one) => one === query.get('kind'));
      const [rule, after] = [query.get('rule'), query.get('after')];
      const isWrong = (id: string | null) => id !== null && !isUuid(id);
      if (!kind || isWrong(rule) || isWrong(after))
        throw new Refusal(
          422,
          'run.group',
          'A group is named by wave, kind (field, created, deleted or restored), type, field and rule (an id), as the run’s groups have them; “after” is the “next” of the page before.',
        );
      const body = await runGroupPage(await workspaceOf(params), params.run, {
        wave: wholeNumber(query.get('wave'), 0, { most: 100_000, name: 'wave' }),
        ...{ kind, rule, after, type: query.get('type') ?? '', field: query.get('field') ?? '' },
        search: (query.get('search') ?? '').slice(0, 200),
        limit: wholeNumber(query.get('limit'), 100, { least: 1, most: 1_000, name: 'limit' }),
      });
      return { body };
    },
  },
);
