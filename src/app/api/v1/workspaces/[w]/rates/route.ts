import { personOf, route } from '@/app/api/answer';
import { fetchRates } from '@/server/actions/fetch-rates';

/** Asks the rate service for rates that the workspace doesn't have yet. */
export const POST = route<{ w: string }>(async ({ request, params }) => ({
  body: await fetchRates({ workspace: params.w, person: personOf(request) }),
}));
