'use client';

import { writeCount } from '@/core/values';
import type { WireEdit } from '@/core/engine';
import { type Model, typeIn } from '@/core/model';
import type { WireRecord } from '@/core/verify';
import type { ModelView } from '@/core/api';
import { Button } from 'antd';
import { useState } from 'react';
import { useTask } from '@/ui/kit/hooks/use-task';
import { callApi } from '@/ui/api/client';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { BinDialog } from '@/ui/records/bin-dialog';
import { BulkForm, useBulkForm } from './bulk-form';
import { ListEditDialog, type ListOf } from './list-edit';
import { RehearsedDialog } from '@/ui/records/rehearsed-dialog';
import { clsx } from 'clsx';
import recordsStyle from '@/ui/records/records.module.css';
import style from './bulk-edit.module.css';
import { MayButton } from '@/ui/kit/may-button';

/** Most records that one run takes from a list. */
export const MOST_MARKED = 5_000;

export interface MarkedBarProps {
  readonly model: Model;
  readonly view: ModelView;
  readonly type: string;
  readonly marked: readonly WireRecord[];
  /** How many the list holds, where that is known and not too many to be marked together. */
  readonly all: number | null;
  /** The list, for edits of all that is in it. */
  readonly list: ListOf;
  /** Reads the whole list. */
  readonly readAll: () => Promise<readonly WireRecord[]>;
  readonly onMark: (marked: readonly WireRecord[]) => void;
}

/** What can be done with the records that are marked in a list. */
export function MarkedBar({ model, view, type, marked, all, list, readAll, onMark }: MarkedBarProps) {
  const [open, setOpen] = useState<'edit' | 'editAll' | 'delete' | null>(null);
  const { isBusy: isReading, error: problem, run } = useTask();
  if (marked.length === 0) return null;
  const { name, plural } = typeIn(model, type);
  const what = marked.length === 1 ? name.toLowerCase() : plural.toLowerCase();
  const markAll = () => run(readAll, null, onMark);
  const end = () => {
    setOpen(null);
    onMark([]);
  };
  return (
    <div className={clsx(recordsStyle.listBar, style.markedBar)} role="group" aria-label="Marked records">
      <strong role="status">
        {writeCount(marked.length)} {what} marked
      </strong>
      {all !== null && all > marked.length ? (
        <Button size="small" loading={isReading} onClick={() => void markAll()}>
          Mark all {writeCount(all)}
        </Button>
      ) : null}
      <MayButton right="edit" size="small" type="primary" onClick={() => setOpen('edit')}>
        Edit together …
      </MayButton>
      <MayButton right="edit" size="small" danger onClick={() => setOpen('delete')}>
        Delete …
      </MayButton>
      <Button size="small" onClick={() => onMark([])}>
        Unmark
      </Button>
      {all === null ? (
        <MayButton right="editMany" size="small" onClick={() => setOpen('editAll')}>
          Edit the whole list …
        </MayButton>
      ) : null}
      <ProblemNotice error={problem} />
      {open === 'edit' ? (
        <BulkEditDialog {...{ model, view, type, marked }} onClose={() => setOpen(null)} onDone={end} />
      ) : null}
      {open === 'editAll' ? (
        <ListEditDialog {...{ model, view, type, list }} onClose={() => setOpen(null)} onDone={end} />
      ) : null}
      {open === 'delete' ? (
        <BinDialog
          records={marked}
          title={`${writeCount(marked.length)} ${what}`}
          kind="delete"
          onClose={() => setOpen(null)}
          onDone={end}
        />
      ) : null}
    </div>
  );
}

interface BulkEditProps extends Pick<MarkedBarProps, 'model' | 'view' | 'type' | 'marked'> {
  readonly onClose: () => void;
  readonly onDone: () => void;
}

/** One field of many records at once, as one run. */
function BulkEditDialog({ model, view, type, marked, onClose, onDone }: BulkEditProps) {
  const { plural } = typeIn(model, type);
  const form = useBulkForm(model, view, type);
  const { field, values } = form;
  const edits = values
    ? marked.map(({ id, version }): WireEdit => ({ kind: 'edit', type, id, version, values }))
    : null;
  const count = writeCount(marked.length);
  return (
    <RehearsedDialog
      title={`Edit ${count} ${plural.toLowerCase()} together`}
      edits={edits}
      note={field ? `${field.name} of ${count} ${plural.toLowerCase()}` : ''}
      okText={() => `Save ${count}`}
      lead={(waves) => {
        const changed = waves.find(({ number }) => number === 0)?.changes.length ?? 0;
        const same = marked.length - changed;
        return `${writeCount(changed)} would change${same > 0 ? `; ${writeCount(same)} have that value already` : ''}. What follows:`;
      }}
      firstName="You change"
      done="Saved as one run; the ledger has it, to be undone from there if need be."
      onClose={onClose}
      onDone={onDone}
    >
      <BulkForm form={form} />
    </RehearsedDialog>
  );
}

/** A whole list, page after page. */
export async function readWholeList(path: (after: string | null) => string): Promise<readonly WireRecord[]> {
  const records: WireRecord[] = [];
  let after: string | null = null;
  do {
    const page: { records: readonly WireRecord[]; next: string | null } = await callApi(path(after));
    records.push(...page.records);
    after = page.next;
  } while (after !== null && records.length < MOST_MARKED);
  return records.slice(0, MOST_MARKED);
}
