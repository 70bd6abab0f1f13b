import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { dictionaryBook, readDictionary } from '@/server/queries/rules/dictionary';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/dictionary/export', {
  /** As a workbook (XLSX). */
  GET: async ({ params }) => {
    const book = await dictionaryBook(await readDictionary(await workspaceOf(params)));
    return {
      body: new Response(new Uint8Array(book), {
        headers: {
          'Content-Type': 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
          'Content-Disposition': 'attachment; filename="dictionary.xlsx"',
          'Cache-Control': 'no-store',
        },
      }),
    };
  },
});
