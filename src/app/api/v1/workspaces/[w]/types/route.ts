import { listKeepers } from '@/server/queries/rules/rules';
import { endpoint, workspaceOf } from '@/app/api/endpoint';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/types', {
  /** The model, and which rules keep which fields. */
  GET: async ({ params }) => {
    const workspace = await workspaceOf(params);
    const keepers = await listKeepers(workspace);
    const { name, model, modelVersion, settledDay } = workspace;
    const { types, lists = [], selections = [], ruleDefaults } = model;
    return {
      body: { name, types, lists, selections, ruleDefaults, settledDay, version: modelVersion, keepers },
    };
  },
});
