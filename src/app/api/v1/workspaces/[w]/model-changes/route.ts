import { endpoint } from '@/app/api/endpoint';
import { applyModelChanges } from '@/server/actions/model/change-model';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/model-changes', {
  /** Changes the model as one run: all of it or nothing. */
  POST: async ({ params, person, json }) => {
    const input = readInput('modelChange', await json());
    return { body: await applyModelChanges({ workspace: params.w, person, ...input }) };
  },
});
