import { problem, problemOf } from '@/app/api/problem';
import { checkHost } from '@/server/requests/front';

/** Every address under the API that isn't one of its routes. */
const unknown = (request: Request): Response => {
  try {
    checkHost(request.headers.get('host'));
    const { pathname } = new URL(request.url);
    return problem(404, {
      code: 'route.unknown',
      detail: `There is nothing at ${pathname}. What there is stands in docs/api.md; it begins with /api/v1/workspaces.`,
    });
  } catch (error) {
    return problemOf(request, error);
  }
};

export { unknown as DELETE, unknown as GET, unknown as PATCH, unknown as POST, unknown as PUT };
