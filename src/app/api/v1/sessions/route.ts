import { endpoint } from '@/app/api/endpoint';
import { refuseInDemo } from '@/app/api/entering';
import { sessionsOf } from '@/server/sign-in/sessions';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/sessions', {
  /** One's own sessions. */
  GET: async ({ person, signedIn }) => {
    refuseInDemo();
    const sessions = await sessionsOf(person);
    return {
      body: { sessions: sessions.map((one) => ({ ...one, isThis: one.handle === signedIn?.handle })) },
    };
  },
});
