'use client';

import type { WireEdit } from '@/core/engine';
import type { RippleView } from '@/core/verify';
import type { SavedRun } from '@/core/api';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Dialog } from '@/ui/kit/dialog';
import { type ReactNode } from 'react';
import { useTask } from '@/ui/kit/hooks/use-task';
import { callApi } from '@/ui/api/client';
import { useInvalidate } from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { Ripple } from '@/ui/kit/explain/ripple';
import { usePerson } from '@/ui/api/person';
import style from './rehearsed-dialog.module.css';

export type Waves = RippleView['waves'];

export interface RehearsedDialogProps {
  readonly title: string;
  /** What would be saved; `null` while that isn't known. */
  readonly edits: readonly WireEdit[] | null;
  /** What the run is for, kept with it. */
  readonly note?: string;
  readonly okText: (waves: Waves) => string;
  readonly isDanger?: boolean;
  /** What stands above the ripple. */
  readonly lead: (waves: Waves) => ReactNode;
  /** What stands above what was entered. */
  readonly firstName: string | ((waves: Waves) => string);
  readonly done: string;
  readonly onDone: (saved: SavedRun) => void;
  readonly onClose: () => void;
  readonly children?: ReactNode;
}

/** Edits shown with all that would follow, and then saved as one run. Nothing is saved before. */
export function RehearsedDialog(props: RehearsedDialogProps) {
  const {
    title,
    edits,
    note,
    okText,
    isDanger = false,
    lead,
    firstName,
    done,
    onDone,
    onClose,
    children,
  } = props;
  const person = usePerson();
  const forget = useInvalidate();
  const { isBusy, error: problem, run } = useTask();
  const rehearsal = useQuery({
    queryKey: ['rehearsal', edits],
    queryFn: () =>
      callApi<{ ripple: SavedRun['ripple'] }>('/rehearsals', {
        method: 'POST',
        body: { edits },
        person: person.id,
      }),
    enabled: edits !== null && edits.length > 0,
    placeholderData: keepPreviousData,
    gcTime: 0,
    retry: false,
  });
  const isCurrent =
    rehearsal.data !== undefined && !rehearsal.isFetching && edits !== null && edits.length > 0;
  const waves = isCurrent ? rehearsal.data.ripple.waves : [];
  const overruled = isCurrent ? rehearsal.data.ripple.overruled : [];
  const confirm = () =>
    run(
      async () => {
        const body = { edits, ...(note ? { note } : {}) };
        const saved = await callApi<SavedRun>('/changes', { method: 'POST', body, person: person.id });
        await forget.records();
        return saved;
      },
      () => done,
      onDone,
    );
  return (
    <Dialog
      open
      width={640}
      title={title}
      okText={okText(waves)}
      okButtonProps={{ disabled: !isCurrent, loading: isBusy, danger: isDanger }}
      cancelText="Not now"
      onOk={() => void confirm()}
      onCancel={onClose}
    >
      {children}
      <ProblemNotice error={(edits?.length ? rehearsal.error : null) ?? problem} />
      {isCurrent ? (
        <>
          <p>{lead(waves)}</p>
          <div className={style.binRipple}>
            <Ripple
              ripple={{ waves, overruled }}
              firstName={typeof firstName === 'string' ? firstName : firstName(waves)}
            />
          </div>
        </>
      ) : rehearsal.isFetching ? (
        <Loading what="what would follow" />
      ) : null}
    </Dialog>
  );
}
