import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { administering } from '@/app/api/entering';
import { letIn } from '@/server/actions/workspaces/members';
import { readInput } from '@/server/forms/input';
import { listPeople } from '@/server/queries/workspaces/people';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/people', {
  GET: async ({ params, signedIn }) => {
    const found = await listPeople(await workspaceOf(params));
    // Who gives no second step isn't told to everybody.
    const isTold = !signedIn || signedIn.standing?.rights.has('administer') === true;
    const people = isTold ? found.people : found.people.map((one) => ({ ...one, hasSecond: false }));
    return { body: { ...found, people } };
  },
  /** Lets somebody in. */
  POST: async ({ params, json, ...asking }) => {
    const by = administering(params.w, asking);
    return { status: 201, body: await letIn(by, readInput('newMember', await json())) };
  },
});
