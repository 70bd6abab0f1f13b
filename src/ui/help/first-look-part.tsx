'use client';

import type { WorkspaceView } from '@/core/api';
import { Button } from 'antd';
import { useEffect } from 'react';
import { callServer } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import { useRules } from '@/ui/api/queries';
import { useHappened } from '@/ui/kit/happened';
import { useKept } from '@/ui/kit/hooks/use-kept';
import { useTask } from '@/ui/kit/hooks/use-task';
import { Link, placePath, usePlace, useWorkspaceKey } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import {
  type Deed,
  type FirstLook,
  isFirstLook,
  lookName,
  lookRules,
  type LookRules,
  lookSteps,
} from './first-look';
import style from './help.module.css';

const isLook = (value: unknown): value is FirstLook | null => value === null || isFirstLook(value);

const workspacesNow = async (): Promise<readonly WorkspaceView[]> =>
  (await callServer<{ workspaces: readonly WorkspaceView[] }>('/api/v1/workspaces')).workspaces;

/** The first look that was begun and isn't ended, and how it is kept. */
export const useFirstLook = () => useKept<FirstLook | null>('first look', null, isLook);

/** The first look: offered, gone through or waiting to be gone on with. Nothing where the workspace has no rules for one. */
export function FirstLookPart() {
  const workspace = useWorkspaceKey();
  const [look, keep] = useFirstLook();
  const { data } = useRules();
  const rules = data ? lookRules(data.rules) : null;
  if (look && look.workspace === workspace && data) return <Going {...{ look, keep }} rules={rules} />;
  if (look) return <Waiting {...{ look, keep }} />;
  return rules ? <Offer keep={keep} from={workspace} /> : null;
}

interface KeptLook {
  readonly look: FirstLook;
  readonly keep: (next: FirstLook | null) => void;
}

function Offer({ keep, from }: { readonly keep: KeptLook['keep']; readonly from: string }) {
  const { id: person } = usePerson();
  const { run, isBusy, error } = useTask();
  const begin = () =>
    run(
      async () => {
        // Somebody else may be at theirs.
        const name = lookName((await workspacesNow()).map((one) => one.name));
        return callServer<WorkspaceView>('/api/v1/workspaces', {
          ...{ method: 'POST', body: { name, copyOf: from, withRecords: true }, person },
        });
      },
      null,
      ({ key, name }) => {
        keep({ workspace: key, name, from, done: [] });
        location.assign(placePath(key, '/rules'));
      },
    );
  return (
    <section className={style.look} aria-label="A first look">
      <h3>A first look</h3>
      <p>
        Five steps, a few minutes: read a rule, change a value on the bench, open a total, keep a proof, take
        a draft live. It is done in a copy of this workspace, which goes when you end it.
      </p>
      <Button type="primary" loading={isBusy} onClick={() => void begin()}>
        {isBusy ? 'Making the copy …' : 'Begin'}
      </Button>
      <ProblemNotice error={error} />
    </section>
  );
}

function Going({ look, keep, rules }: KeptLook & { readonly rules: LookRules | null }) {
  const place = usePlace();
  const doneNow = (deed: Deed) => {
    if (!look.done.includes(deed)) keep({ ...look, done: [...look.done, deed] });
  };
  useHappened(doneNow);
  const isReading = /^\/rules\/(?!review|new)[^/]+$/.test(place);
  useEffect(() => {
    if (isReading && !look.done.includes('read')) keep({ ...look, done: [...look.done, 'read'] });
  }, [isReading, look, keep]);
  // Once the draft is live the workspace has no other: the steps are done then.
  const steps = rules ? lookSteps(rules) : [];
  const next = steps.find(({ deed }) => !look.done.includes(deed));
  const isDone = look.done.length >= 5 || (!rules && look.done.includes('takenLive'));
  return (
    <section className={style.look} aria-label="A first look">
      <h3>A first look</h3>
      {isDone ? (
        <p role="status">That was it. End it, and all that you did here goes with the copy.</p>
      ) : (
        <ol>
          {steps.map((step, at) => (
            <li key={step.title} aria-current={step === next ? 'step' : undefined}>
              <strong>
                {at + 1}. {step.title}
              </strong>
              {look.done.includes(step.deed) ? <span className={style.done}> done</span> : null}
              {step === next ? (
                <>
                  <p>{step.text}</p>
                  <Link href={step.path}>Go there</Link>{' '}
                  <Button size="small" type="text" onClick={() => doneNow(step.deed)}>
                    Skip it
                  </Button>
                </>
              ) : null}
            </li>
          ))}
        </ol>
      )}
      <End {...{ look, keep }} />
    </section>
  );
}

function Waiting({ look, keep }: KeptLook) {
  return (
    <section className={style.look} aria-label="A first look">
      <h3>A first look</h3>
      <p>
        {look.done.length} of 5 steps are done.{' '}
        {/* A whole new page: nothing that is shown of one workspace lives on in another. */}
        <a href={placePath(look.workspace, '/rules')}>Go on with it</a>
      </p>
      <End {...{ look, keep }} />
    </section>
  );
}

/** Ends it: the copy is removed, and with it all that was done there. */
function End({ look, keep }: KeptLook) {
  const { id: person } = usePerson();
  const workspace = useWorkspaceKey();
  const { run, isBusy, error } = useTask();
  const remove = async () => {
    const copy = (await workspacesNow()).find(({ key }) => key === look.workspace);
    // Somebody may have removed it already, or given it another name.
    if (copy)
      await callServer(`/api/v1/workspaces/${copy.key}`, {
        ...{ method: 'DELETE', body: { confirmation: copy.name }, person },
      });
  };
  return (
    <>
      <Button
        size="small"
        loading={isBusy}
        onClick={() =>
          void run(remove, null, () => {
            keep(null);
            if (workspace === look.workspace) location.assign(placePath(look.from, '/today'));
          })
        }
      >
        End it, and undo what it did
      </Button>
      <ProblemNotice error={error} />
    </>
  );
}
