import { keptCookie, visitCookie, visitOf } from '@/app/api/asking';
import { endpoint } from '@/app/api/endpoint';
import { refuseInDemo, visiting } from '@/app/api/entering';
import { endSession } from '@/server/sign-in/sessions';
import { returnFromVisit } from '@/server/sign-in/provider';
import { forgetWorkspace } from '@/server/store/session/workspace';
import { safePath } from '@/core/api';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/session/provider/return', {
  /** Somebody comes back from the company's sign-in (OpenID Connect, authorization code). Whoever was signed in by this browser isn't any more. */
  GET: ({ request, signedIn, client }) => {
    refuseInDemo();
    return visiting(async (provider) => {
      const came = await returnFromVisit(provider, new URL(request.url), visitOf(request), client);
      if ('whyNot' in came) return { to: `/sign-in?why=${came.whyNot}`, cookies: [visitCookie(null)] };
      came.touched.forEach(forgetWorkspace);
      if (signedIn) await endSession(signedIn.person, signedIn.handle);
      return { to: safePath(came.backTo), cookies: [visitCookie(null), keptCookie(came.session)] };
    });
  },
});
