import { endpoint } from '@/app/api/endpoint';
import { refuseInDemo } from '@/app/api/entering';
import { Refusal } from '@/server/refusal';
import { noteSecurity } from '@/server/sign-in/security-events';
import { endSession } from '@/server/sign-in/sessions';
import { isUuid } from '@/server/uuid';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/sessions/{handle}', {
  /** Ends one of one's own sessions: whoever is signed in by it isn't any more, at once. */
  DELETE: async ({ params, person, client }) => {
    refuseInDemo();
    if (!isUuid(params.handle) || !(await endSession(person, params.handle)))
      throw new Refusal(404, 'session.unknown', 'There is no such session. It may have ended already.');
    await noteSecurity({ kind: 'sessionEnded', person, address: client.address });
    return { status: 204 };
  },
});
