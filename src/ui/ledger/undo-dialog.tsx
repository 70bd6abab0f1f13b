'use client';

import { writeCount } from '@/core/values';
import type { LeftByUndo, UndoneRecords, UndoView } from '@/core/api';
import { useInfiniteQuery } from '@tanstack/react-query';
import { Button } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { useInvalidate } from '@/ui/api/queries';
import { Count, Effects, EffectSamples } from '@/ui/intake/import-result';
import { Loading } from '@/ui/kit/loading';
import { Link, useRouter } from '@/ui/kit/navigation';
import { MayButton } from '@/ui/kit/may-button';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { usePerson } from '@/ui/api/person';
import intakeStyle from '@/ui/intake/intake.module.css';

/** Undoes a run by another: first what that would write back, what follows, and what is left as it is. */
export function UndoButton({ run }: { run: string }) {
  const [isOpen, setOpen] = useState(false);
  return (
    <>
      <MayButton right="edit" onClick={() => setOpen(true)}>
        Undo …
      </MayButton>
      {isOpen ? <UndoDialog run={run} onClose={() => setOpen(false)} /> : null}
    </>
  );
}

function useUndo(run: string) {
  return useInfiniteQuery({
    queryKey: ['undo', run],
    queryFn: ({ pageParam }) => callApi<UndoView>(`/runs/${run}/undo?from=${pageParam}`),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const seen = pages.reduce((sum, { left }) => sum + left.length, 0);
      return seen < last.leftCount ? seen : null;
    },
    gcTime: 0,
    staleTime: 0,
  });
}

function UndoDialog({ run, onClose }: { run: string; onClose: () => void }) {
  const router = useRouter();
  const person = usePerson();
  const forget = useInvalidate();
  const { run: doing, isBusy, error: failure } = useTask();
  const { data, error, hasNextPage, fetchNextPage, isFetchingNextPage } = useUndo(run);
  const view = data?.pages[0];
  const canUndo = view !== undefined && view.written.length + view.records.length > 0;
  const undo = () =>
    doing(
      async () => {
        const done = await callApi<UndoView>(`/runs/${run}/undo`, { method: 'POST', person: person.id });
        await forget.records();
        return done;
      },
      () => 'Undone, by a run of its own.',
      ({ undoneBy }) => {
        onClose();
        router.push(`/ledger/${undoneBy}`);
      },
    );
  return (
    <Dialog
      open
      width={680}
      title={`Undo run ${run}`}
      okText="Undo it"
      cancelText={canUndo ? 'Not now' : 'Close'}
      okButtonProps={{ loading: isBusy, disabled: !canUndo }}
      onOk={() => void undo()}
      onCancel={onClose}
    >
      <ProblemNotice error={error ?? failure} />
      {view ? (
        <UndoResult view={view}>
          <Left
            left={data.pages.flatMap(({ left }) => left)}
            count={view.leftCount}
            {...(hasNextPage ? { onMore: () => void fetchNextPage(), isBusy: isFetchingNextPage } : {})}
          />
        </UndoResult>
      ) : error ? null : (
        <Loading what="what can be undone" />
      )}
    </Dialog>
  );
}

const counted = (of: readonly { readonly records: number }[]): number =>
  of.reduce((sum, { records }) => sum + records, 0);

/** What is written back, what goes and comes back, and what follows. */
function UndoResult({ view, children }: { view: UndoView; children: React.ReactNode }) {
  const { written, records, effects, leftCount, messagesSent } = view;
  const gone = records.filter(({ kind }) => kind === 'deleted');
  const back = records.filter(({ kind }) => kind === 'restored');
  return (
    <div className={intakeStyle.importResult}>
      {written.length + records.length === 0 ? (
        <p>Nothing of it can be written back.</p>
      ) : (
        <p>A new run puts back what this one wrote, where that still stands. No rule reacts to it.</p>
      )}
      <dl className={intakeStyle.importCounts}>
        <Count name="values back" of={counted(written)} />
        <Count name="into the bin" of={counted(gone)} />
        <Count name="out of the bin" of={counted(back)} />
        <Count name="left as it is" of={leftCount} />
      </dl>
      {messagesSent > 0 ? (
        <p>
          {messagesSent === 1
            ? 'A message that it sent stays sent.'
            : `${writeCount(messagesSent)} messages that it sent stay sent.`}
        </p>
      ) : null}
      {written.length > 0 ? (
        <section aria-label="Written back">
          <h3>Written back</h3>
          <ul>
            {written.map((field) => (
              <li key={`${field.type} ${field.fieldName}`}>
                <strong>
                  {field.fieldName} of {field.typeName}
                </strong>{' '}
                in {writeCount(field.records)} {field.records === 1 ? 'record' : 'records'}
                <EffectSamples {...field} byRule={false} />
              </li>
            ))}
          </ul>
        </section>
      ) : null}
      <Records title="Into the bin" records={gone} />
      <Records title="Out of the bin" records={back} />
      <Effects effects={effects} />
      {children}
    </div>
  );
}

function Records({ title, records }: { title: string; records: readonly UndoneRecords[] }) {
  if (records.length === 0) return null;
  return (
    <section aria-label={title}>
      <h3>{title}</h3>
      <ul>
        {records.map(({ type, typeName, records: count, samples }) => (
          <li key={type}>
            <strong>{typeName}</strong>:{' '}
            {samples.map(({ id, title: name }, at) => (
              <span key={id}>
                {at > 0 ? ', ' : ''}
                <Link href={`/records/${type}/${id}`}>{name}</Link>
              </span>
            ))}
            {count > samples.length ? ` and ${writeCount(count - samples.length)} more` : ''}
          </li>
        ))}
      </ul>
    </section>
  );
}

function Left({
  left,
  count,
  onMore,
  isBusy = false,
}: {
  left: readonly LeftByUndo[];
  count: number;
  onMore?: () => void;
  isBusy?: boolean;
}) {
  if (left.length === 0) return null;
  return (
    <section aria-label="Left as it is">
      <h3>Left as it is</h3>
      <ul>
        {left.map((one) => (
          <li key={`${one.id} ${one.fieldName}`}>
            {one.fieldName === null ? '' : `${one.fieldName} of `}
            <Link href={`/records/${one.type}/${one.id}`}>{one.title}</Link>: {one.reason}.
            <Standing {...one} />
          </li>
        ))}
      </ul>
      {onMore ? (
        <Button onClick={onMore} loading={isBusy}>
          Show more of {writeCount(count)}
        </Button>
      ) : null}
    </section>
  );
}

/** What stood there before the run, after it, and what stands there now. */
function Standing({ before, after, current }: LeftByUndo) {
  if (!before && !after && !current) return null;
  const parts = [
    ...(before ? [`before the run ${before.text}`] : []),
    ...(after ? [`after it ${after.text}`] : []),
    ...(current && current.text !== after?.text ? [`now ${current.text}`] : []),
  ];
  return <div className="quiet">{parts.join(' · ')}</div>;
}
