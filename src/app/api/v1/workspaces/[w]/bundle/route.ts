import { streamOf } from '@/app/api/answer';
import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { bundleName, exportBundle } from '@/server/actions/bundles/export-bundle';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/bundle', {
  /** The workspace as a bundle; `?records=true` with its records. */
  GET: async ({ params, query }) => {
    const workspace = await workspaceOf(params);
    const pieces = exportBundle(params.w, query.get('records') === 'true');
    return {
      body: new Response(streamOf(pieces), {
        headers: {
          'Content-Type': 'application/json; charset=utf-8',
          'Content-Disposition': `attachment; filename="${bundleName(workspace, new Date())}"`,
          'Cache-Control': 'no-store',
        },
      }),
    };
  },
});
