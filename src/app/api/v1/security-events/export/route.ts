import { streamOf } from '@/app/api/answer';
import { endpoint } from '@/app/api/endpoint';
import { noteSecurity, securityLines } from '@/server/sign-in/security-events';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/security-events/export', {
  /** The whole security ledger as JSON Lines, the earliest first. */
  GET: async ({ person, client }) => {
    const about = { workspace: null, name: 'the security ledger' };
    const by = person === '' ? null : person;
    await noteSecurity({ kind: 'exported', person: by, address: client.address, data: about });
    return {
      body: new Response(streamOf(securityLines()), {
        headers: {
          'Content-Type': 'application/x-ndjson',
          'Content-Disposition': 'attachment; filename="security-ledger.jsonl"',
          'Cache-Control': 'no-store',
        },
      }),
    };
  },
});
