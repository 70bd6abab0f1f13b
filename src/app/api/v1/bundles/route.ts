import { jsonText, route } from '@/app/api/answer';
import { importBundle } from '@/server/actions/import-bundle';
import { MOST_BUNDLE } from '@/server/actions/read-bundle';

/** Makes a new workspace of a bundle; `?name=` gives it another name. */
export const POST = route(async ({ request, query }) => ({
  status: 201,
  body: await importBundle(await jsonText(request, MOST_BUNDLE), query.get('name')),
}));
