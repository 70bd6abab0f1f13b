import { route } from '@/app/api/answer';
import { sampleFamilyDrift } from '@/server/actions/sample-families';

/** What of the kept family is otherwise in the data by now. */
export const GET = route<{ w: string; id: string }>(async ({ params }) => ({
  body: await sampleFamilyDrift(params.w, params.id),
}));
