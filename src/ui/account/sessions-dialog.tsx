import type { OwnSession } from '@/core/api';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button } from 'antd';
import { callServer } from '@/ui/api/client';
import { Dialog } from '@/ui/kit/dialog';
import { useTask } from '@/ui/kit/hooks/use-task';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { when } from '@/ui/kit/values/when';
import style from './account.module.css';

const KEY = ['ownSessions'];

/** Where one is signed in, and the press that ends it there. */
export function SessionsDialog({ onClose }: { onClose: () => void }) {
  const client = useQueryClient();
  const { data, error } = useQuery({
    queryKey: KEY,
    queryFn: () => callServer<{ sessions: OwnSession[] }>('/api/v1/sessions'),
  });
  const ending = useTask();
  const end = ({ handle }: OwnSession) =>
    void ending.run(
      () => callServer(`/api/v1/sessions/${handle}`, { method: 'DELETE' }),
      () => 'It has ended there',
      () => void client.invalidateQueries({ queryKey: KEY }),
    );
  return (
    <Dialog open title="Where you are signed in" footer={null} onCancel={onClose}>
      <ProblemNotice error={error ?? ending.error} />
      {data ? (
        <ul className={style.list}>
          {data.sessions.map((session) => (
            <li key={session.handle}>
              <div>
                <strong>{session.isThis ? 'Here' : programOf(session.agent)}</strong>{' '}
                <span className="quiet">
                  from {session.address}, since {when(session.began)}, used last {when(session.used)}
                </span>
              </div>
              {session.isThis ? null : (
                <Button size="small" onClick={() => end(session)} disabled={ending.isBusy}>
                  End it there
                </Button>
              )}
            </li>
          ))}
        </ul>
      ) : error ? null : (
        <Loading what="where you are signed in" />
      )}
      {data?.sessions.length === 1 ? <p className="quiet">You are signed in nowhere else.</p> : null}
    </Dialog>
  );
}

/** What a program calls itself, as far as its first words say it. */
const programOf = (agent: string): string =>
  /(Firefox|Edg|Chrome|Safari)\/[\d.]+/.exec(agent)?.[0].replace('Edg/', 'Edge ').replace('/', ' ') ??
  (agent.slice(0, 60) || 'A program that doesn’t say its name');
