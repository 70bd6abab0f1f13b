import { callServer } from '@/ui/api/client';
import { openPage } from '@/ui/api/open-page';
import { useTask } from '@/ui/kit/hooks/use-task';

/** Signs out, and leads to where one signs in. */
export function useSignOut(): () => void {
  const leaving = useTask();
  return () =>
    void leaving.run(
      () => callServer('/api/v1/session', { method: 'DELETE' }),
      null,
      () => openPage('/sign-in'),
    );
}
