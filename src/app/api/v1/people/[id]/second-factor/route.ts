import { endpoint } from '@/app/api/endpoint';
import { refuseInDemo } from '@/app/api/entering';
import { Refusal } from '@/server/refusal';
import { hasSecondFactor, removeSecondFactor } from '@/server/sign-in/second-factor';
import { isUuid } from '@/server/uuid';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/people/{id}/second-factor', {
  /** An operator takes somebody's second step away who has lost it. */
  DELETE: async ({ params, person, client }) => {
    refuseInDemo();
    if (!isUuid(params.id) || !(await hasSecondFactor(params.id)))
      throw new Refusal(404, 'secondFactor.set', 'They have no second step.');
    await removeSecondFactor(params.id, person, client);
    return { status: 204 };
  },
});
