'use client';

import { writeCount } from '@/core/values';
import type { WireEdit } from '@/core/engine';
import type { RecordDifference } from '@/core/api';
import { Button, Checkbox } from 'antd';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { RehearsedDialog } from '@/ui/records/rehearsed-dialog';
import { clsx } from 'clsx';
import style from './record-differences.module.css';
import workspacesStyle from './workspaces.module.css';

const KINDS: Record<RecordDifference['kind'], string> = {
  new: 'new in the bundle',
  changed: 'otherwise in the bundle',
  gone: 'not in the bundle; taking that over deletes them',
};

/** Records that the bundle has otherwise. Those that are chosen are taken over as one run, seen with all that follows before it is saved. */
export function RecordDifferences({
  text,
  records,
  onDone,
}: {
  /** The bundle. */
  text: string;
  records: readonly RecordDifference[];
  onDone: () => void;
}) {
  const [chosen, setChosen] = useState<ReadonlySet<string>>(
    () => new Set(records.filter(({ kind }) => kind !== 'gone').map(({ id }) => id)),
  );
  const [edits, setEdits] = useState<readonly WireEdit[] | null>(null);
  const looking = useTask();
  const number = records.filter(({ id }) => chosen.has(id)).reduce((sum, one) => sum + one.records, 0);
  const look = () =>
    looking.run(
      () =>
        callApi<{ edits: readonly WireEdit[] }>('/bundle-record-edits', {
          method: 'POST',
          body: { bundle: text, chosen: [...chosen].sort() },
        }),
      null,
      (answer) => setEdits(answer.edits),
    );
  return (
    <section
      className={clsx('sheet', workspacesStyle.compareSection, style.compareRecords)}
      aria-label="Records"
    >
      <h2>Records</h2>
      <p className="quiet">
        They are taken over into the model as it is here, by what people enter; rules give the rest. Take the
        model over first where records need it.
      </p>
      {records.map(({ id, name, plural, kind, records: count, titles }) => (
        <div key={id} className={workspacesStyle.difference}>
          <Checkbox
            checked={chosen.has(id)}
            onChange={(event) => {
              const next = new Set(chosen);
              if (event.target.checked) next.add(id);
              else next.delete(id);
              setChosen(next);
            }}
          >
            {writeCount(count)} {(count === 1 ? name : plural).toLowerCase()}
          </Checkbox>{' '}
          <span className="quiet">{KINDS[kind]}</span>
          <p className="flags">
            {titles.join(', ')}
            {count > titles.length ? ` and ${writeCount(count - titles.length)} more` : ''}
          </p>
        </div>
      ))}
      <ProblemNotice error={looking.error} />
      <Button disabled={number === 0} loading={looking.isBusy} onClick={() => void look()}>
        Look what taking {writeCount(number)} {number === 1 ? 'record' : 'records'} over would do …
      </Button>
      {edits ? (
        <RehearsedDialog
          title={`Take ${writeCount(edits.length)} ${edits.length === 1 ? 'record' : 'records'} over`}
          edits={edits}
          note="Records of a bundle"
          okText={() => 'Take them over'}
          lead={() => 'What would change, and what follows from it:'}
          firstName="Taken over"
          done="Taken over as one run; the ledger has it, to be undone from there if need be."
          onClose={() => setEdits(null)}
          onDone={() => {
            setEdits(null);
            onDone();
          }}
        />
      ) : null}
    </section>
  );
}
