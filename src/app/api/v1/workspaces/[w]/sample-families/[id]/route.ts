import { personOf, route } from '@/app/api/answer';
import { removeFamily, sampleFamily } from '@/server/actions/sample-families';

type Params = { w: string; id: string };

export const GET = route<Params>(async ({ params }) => ({ body: await sampleFamily(params.w, params.id) }));

export const DELETE = route<Params>(async ({ request, params }) => {
  await removeFamily({ workspace: params.w, person: personOf(request) }, params.id);
  return { status: 204 };
});
