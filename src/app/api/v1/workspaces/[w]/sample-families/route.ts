import { jsonBody, personOf, route } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { MOST_BUNDLE } from '@/server/actions/read-bundle';
import { keepFamiliesBy, keepFamily, sampleFamilies } from '@/server/actions/sample-families';

export const GET = route<{ w: string }>(async ({ params }) => ({
  body: { families: await sampleFamilies(params.w) },
}));

/** Keeps a family picked from the data or handed over, or one for each option of a field. */
export const POST = route<{ w: string }>(async ({ request, params }) => {
  const input = readInput('newFamily', await jsonBody(request, MOST_BUNDLE));
  const by = { workspace: params.w, person: personOf(request) };
  const families = 'field' in input ? await keepFamiliesBy(by, input) : [await keepFamily(by, input)];
  return { status: 201, body: { families } };
});
