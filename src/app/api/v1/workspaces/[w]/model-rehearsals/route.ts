import { endpoint } from '@/app/api/endpoint';
import { rehearseModel } from '@/server/actions/model/change-model';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/model-rehearsals', {
  /** Changes of the model in; what they would do to what is stored and to the rules out. Changes nothing. */
  POST: async ({ params, json }) => {
    const { changes } = readInput('modelRehearsal', await json());
    return { body: await rehearseModel(params.w, changes) };
  },
});
