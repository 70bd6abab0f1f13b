import { listKeepers } from '@/server/queries/rules/rules';
import { endpoint, workspaceOf, workspaceSeen } from '@/app/api/endpoint';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/types', {
  /** The model, and which rules keep which fields. */
  GET: async (asked) => {
    const workspace = await workspaceSeen(asked);
    const all = await listKeepers(await workspaceOf(asked.params));
    const keepers = all.filter(({ type, field }) => workspace.model.field(type, field) !== undefined);
    const { name, model, modelVersion, settledDay } = workspace;
    const { types, lists = [], selections = [], ruleDefaults } = model;
    const of = { settledDay, timeZone: workspace.timeZone };
    return {
      body: { name, types, lists, selections, ruleDefaults, ...of, version: modelVersion, keepers },
    };
  },
});
