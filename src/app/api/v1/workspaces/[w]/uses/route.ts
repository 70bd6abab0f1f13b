import { endpoint, workspaceOf } from '@/app/api/endpoint';
import type { Named } from '@/core/verify';
import { findUses } from '@/server/actions/model/find-uses';
import { Refusal } from '@/server/refusal';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/uses', {
  /** `?type=`, `?type=&field=`, `?type=&field=&option=`, `?selection=` or `?person=` */
  GET: async ({ params, query }) => ({
    body: { uses: await findUses(await workspaceOf(params), namedIn(query)) },
  }),
});

function namedIn(query: URLSearchParams): Named {
  const [type, field, option] = [query.get('type'), query.get('field'), query.get('option')];
  const [selection, person] = [query.get('selection'), query.get('person')];
  if (type && field && option) return { kind: 'option', type, field, option };
  if (type && field) return { kind: 'field', type, field };
  if (type) return { kind: 'type', type };
  if (selection) return { kind: 'selection', selection };
  if (person) return { kind: 'person', person };
  throw new Refusal(
    422,
    'uses.named',
    'Say of what: type, type and field, type, field and option, a selection, or a person.',
  );
}
