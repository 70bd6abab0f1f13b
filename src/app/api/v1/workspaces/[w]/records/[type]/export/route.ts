import { listInput } from '@/app/api/list-input';
import { streamOf } from '@/app/api/answer';
import { endpoint, workspaceSeen } from '@/app/api/endpoint';
import { exportRecords, type ExportFormat, FORMATS } from '@/server/queries/records/export-records';
import { checkMay } from '@/server/queries/seen-workspace';
import { Refusal } from '@/server/refusal';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/records/{type}/export', {
  /** A whole list as a file: `?format=csv`, `jsonl` or `xlsx`, `?fields=a,b` for some of its fields, and whatever narrows and sorts a list. */
  GET: async (asked) => {
    const { params, query } = asked;
    const workspace = await workspaceSeen(asked);
    checkMay(workspace, params.type, 'export');
    const format = query.get('format') ?? 'csv';
    if (!(format in FORMATS)) {
      const known = Object.keys(FORMATS).join(' or ');
      throw new Refusal(422, 'export.format', `“format” should be ${known}, found “${format}”.`);
    }
    const fields = query.get('fields')?.split(',').filter(Boolean) ?? null;
    const input = { ...listInput(params.type, query), format: format as ExportFormat, fields };
    const { name, contentType, pieces } = await exportRecords(workspace, input);
    return {
      body: new Response(streamOf(pieces), {
        headers: {
          'Content-Type': contentType,
          'Content-Disposition': `attachment; filename="${name}"`,
          'Cache-Control': 'no-store',
        },
      }),
    };
  },
});
