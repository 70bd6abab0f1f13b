import { endpoint } from '@/app/api/endpoint';
import { mergeBundle } from '@/server/actions/bundles/merge-bundle';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/bundle-merges', {
  /** Takes differences over, all that were chosen or nothing. */
  POST: async ({ params, person, json }) => {
    const input = readInput('mergeApply', await json());
    return { body: await mergeBundle({ workspace: params.w, person }, input) };
  },
});
