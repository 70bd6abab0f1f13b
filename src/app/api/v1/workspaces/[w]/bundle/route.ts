import { route, streamOf, workspaceOf } from '@/app/api/answer';
import { bundleName, exportBundle } from '@/server/actions/export-bundle';

/** The workspace as a bundle; `?records=true` with its records. */
export const GET = route<{ w: string }>(async ({ params, query }) => {
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
});
