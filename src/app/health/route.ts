import { endpoint } from '@/app/api/endpoint';
import { probeDatabase } from '@/server/database/connection';

export const dynamic = 'force-dynamic';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/health', {
  GET: async () => {
    await probeDatabase();
    return { body: { status: 'ok' } };
  },
});
