import { database } from '@/server/database/connection';
import { route } from '../api/answer';

export const dynamic = 'force-dynamic';

export const GET = route(async () => {
  await database().query('SELECT 1');
  return { body: { status: 'ok' } };
});
