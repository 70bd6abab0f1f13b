'use client';

import type { LargeUndoView, UndoView } from '@/core/verify';
import { useQuery } from '@tanstack/react-query';
import { Button, Modal } from 'antd';
import { useState } from 'react';
import { Link, useRouter } from '../kit/navigation';
import { callApi } from '../api/client';
import { useForget } from '../api/queries';
import { LargeUndo } from '../intake/import-result';
import '../intake/intake.css';
import { Loading } from '../kit/loading';
import { ProblemNotice } from '../kit/problem-notice';
import { useDoing } from '../kit/use-doing';
import { RehearsedDialog } from '../records/rehearsed-dialog';
import { usePerson } from '../shell/person';

/** Undoes a run by another: first what that would write back, what follows, and what is left as it is. */
export function UndoButton({ run }: { run: string }) {
  const [isOpen, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>Undo …</Button>
      {isOpen ? <UndoDialog run={run} onClose={() => setOpen(false)} /> : null}
    </>
  );
}

function UndoDialog({ run, onClose }: { run: string; onClose: () => void }) {
  const router = useRouter();
  const { data, error } = useQuery({
    queryKey: ['undo', run],
    queryFn: () => callApi<UndoView>(`/runs/${run}/undo`),
    gcTime: 0,
    staleTime: 0,
  });
  if (data?.large) return <LargeUndoDialog {...{ run, onClose }} view={data.large} />;
  if (!data || data.edits.length === 0)
    return (
      <Modal open title={`Undo run ${run}`} footer={null} onCancel={onClose}>
        <ProblemNotice error={error} />
        {data ? (
          <p>Nothing of it can be written back.</p>
        ) : error ? null : (
          <Loading what="what can be undone" />
        )}
        {data ? <Left left={data.left} /> : null}
      </Modal>
    );
  return (
    <RehearsedDialog
      title={`Undo run ${run}`}
      edits={data.edits}
      note={`Undo of run ${run}`}
      isUndo
      okText={() => 'Undo it'}
      lead={() => 'These values would be written back, as a new run. What follows:'}
      firstName="Written back"
      done="Undone, by a run of its own."
      onClose={onClose}
      onDone={(saved) => {
        onClose();
        if (saved.run) router.push(`/ledger/${saved.run}`);
      }}
    >
      <Left left={data.left} />
    </RehearsedDialog>
  );
}

/** An import of many records is undone as a set. */
function LargeUndoDialog({ run, view, onClose }: { run: string; view: LargeUndoView; onClose: () => void }) {
  const router = useRouter();
  const person = usePerson();
  const forget = useForget();
  const { run: doing, isBusy, error } = useDoing();
  const undo = () =>
    doing(
      async () => {
        const call = { method: 'POST', person: person.id } as const;
        const done = await callApi<{ undoneBy: string }>(`/runs/${run}/undo`, call);
        await forget.records();
        return done;
      },
      null,
      ({ undoneBy }) => {
        onClose();
        router.push(`/ledger/${undoneBy}`);
      },
    );
  return (
    <Modal
      open
      width={640}
      title={`Undo run ${run}`}
      okText="Undo it"
      cancelText="Not now"
      okButtonProps={{ loading: isBusy, disabled: view.deleted + view.writtenBack === 0 }}
      onOk={() => void undo()}
      onCancel={onClose}
    >
      <LargeUndo view={view} />
      <ProblemNotice error={error} />
    </Modal>
  );
}

const MOST_SHOWN = 20;

function Left({ left }: Pick<UndoView, 'left'>) {
  if (left.length === 0) return null;
  return (
    <section className="undo-left" aria-label="Left as it is">
      <strong>Left as it is</strong>
      <ul>
        {left.slice(0, MOST_SHOWN).map(({ type, id, title, fieldName, reason }) => (
          <li key={`${id} ${fieldName}`}>
            {fieldName === null ? '' : `${fieldName} of `}
            <Link href={`/records/${type}/${id}`}>{title}</Link>: {reason}.
          </li>
        ))}
        {left.length > MOST_SHOWN ? (
          <li>and {(left.length - MOST_SHOWN).toLocaleString('en-GB')} more</li>
        ) : null}
      </ul>
    </section>
  );
}
