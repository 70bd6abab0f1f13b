'use client';

import type { SavedRun, WireRecord } from '@/core/verify';
import { useQuery } from '@tanstack/react-query';
import { App, Modal } from 'antd';
import { useState } from 'react';
import { callApi } from '../api/client';
import { useForget } from '../api/queries';
import { Loading } from '../kit/loading';
import { ProblemNotice } from '../kit/problem-notice';
import { Ripple } from '../kit/ripple';
import { usePerson } from '../shell/person';

export interface BinDialogProps {
  readonly record: WireRecord;
  readonly title: string;
  readonly kind: 'delete' | 'restore';
  readonly onDone: () => void;
  readonly onClose: () => void;
}

const WORDS = {
  delete: { verb: 'Delete', past: 'deleted', done: 'It is in the bin now, and can be restored from there.' },
  restore: { verb: 'Restore', past: 'restored', done: 'Restored.' },
} as const;

/** Before a record goes into the bin or comes back: what would go along, which links change, and what follows. */
export function BinDialog({ record, title, kind, onDone, onClose }: BinDialogProps) {
  const { type, id, version } = record;
  const { message } = App.useApp();
  const person = usePerson();
  const forget = useForget();
  const [isBusy, setBusy] = useState(false);
  const [problem, setProblem] = useState<Error | null>(null);
  const edits = [{ kind, type, id, version }];
  const rehearsal = useQuery({
    queryKey: ['rehearsal', kind, type, id, version],
    queryFn: () =>
      callApi<{ ripple: SavedRun['ripple'] }>('/rehearsals', {
        method: 'POST',
        body: { edits },
        person: person.id,
      }),
    gcTime: 0,
    retry: false,
  });
  const { verb, past, done } = WORDS[kind];
  const waves = rehearsal.data?.ripple.waves ?? [];
  const entered = waves.find(({ number }) => number === 0)?.changes ?? [];
  const going = entered.filter((change) => change.kind !== 'field').length;
  const links = entered.length - going;
  const confirm = async () => {
    setBusy(true);
    setProblem(null);
    try {
      await callApi('/changes', { method: 'POST', body: { edits }, person: person.id });
      await forget.records();
      message.success(done);
      onDone();
    } catch (error) {
      setProblem(error as Error);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Modal
      open
      width={640}
      title={`${verb} “${title}”`}
      okText={going > 1 ? `${verb} ${going.toLocaleString('en-GB')} records` : verb}
      okButtonProps={{ disabled: !rehearsal.data, loading: isBusy, danger: kind === 'delete' }}
      cancelText="Not now"
      onOk={() => void confirm()}
      onCancel={onClose}
    >
      <ProblemNotice error={rehearsal.error ?? problem} />
      {rehearsal.data ? (
        <>
          <p>
            {going === 1 ? 'Only this record' : `${going.toLocaleString('en-GB')} records`} would be {past}
            {links > 0
              ? `, and ${links.toLocaleString('en-GB')} ${links === 1 ? 'link' : 'links'} change`
              : ''}
            . What follows:
          </p>
          <div className="bin-ripple">
            <Ripple ripple={{ waves }} firstName={verb === 'Delete' ? 'Goes into the bin' : 'Comes back'} />
          </div>
        </>
      ) : rehearsal.error ? null : (
        <Loading what="what would follow" />
      )}
    </Modal>
  );
}
