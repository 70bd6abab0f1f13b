import { endpoint } from '@/app/api/endpoint';
import { setDayBack } from '@/server/jobs/settle-days';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/settled-day', {
  /** Sets a day that lies ahead of the calendar back to today. */
  POST: async ({ params, person }) => ({ body: await setDayBack({ workspace: params.w, person }) }),
});
