import { jsonText, route } from '@/app/api/answer';
import { importBundle, MOST_BUNDLE } from '@/server/actions/bundles';

/** Makes a new workspace of a bundle; `?name=` gives it another name. */
export const POST = route(async ({ request, query }) => ({
  status: 201,
  body: await importBundle(await jsonText(request, MOST_BUNDLE), query.get('name')),
}));
