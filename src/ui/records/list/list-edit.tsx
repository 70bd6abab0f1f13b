'use client';

import { certain, writeCount } from '@/core/values';
import type { Expression } from '@/core/expression';
import { type Model, typeIn } from '@/core/model';
import type { ImportView, ModelView, Progress } from '@/core/api';
import { Button } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { useEffect, useRef, useState } from 'react';
import { callLong } from '@/ui/api/client';
import { useInvalidate } from '@/ui/api/queries';
import { ImportResult } from '@/ui/intake/import-result';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { ProgressBar } from '@/ui/kit/progress-bar';
import { useTask } from '@/ui/kit/hooks/use-task';
import { usePerson } from '@/ui/api/person';
import { BulkForm, useBulkForm } from './bulk-form';
import intakeStyle from '@/ui/intake/intake.module.css';
import style from './list-edit.module.css';

/** Which records a list holds. */
export interface ListOf {
  readonly search: string;
  readonly condition: Expression | null;
}

export interface ListEditProps {
  readonly model: Model;
  readonly view: ModelView;
  readonly type: string;
  readonly list: ListOf;
  readonly onClose: () => void;
  readonly onDone: () => void;
}

/**
 * One field of all records of a list, however many: first what it would do, worked out over the whole list and saving nothing, then
 * the same as one run. What is entered anew has to be looked at anew.
 */
export function ListEditDialog({ model, view, type, list, onClose, onDone }: ListEditProps) {
  const recordType = typeIn(model, type);
  const plural = recordType.plural.toLowerCase();
  const person = usePerson();
  const forget = useInvalidate();
  const form = useBulkForm(model, view, type);
  const looking = useTask();
  const saving = useTask();
  const [seen, setSeen] = useState<{ readonly of: string; readonly view: ImportView } | null>(null);
  const body = form.values
    ? {
        values: form.values,
        ...(list.search ? { search: list.search } : {}),
        ...(list.condition ? { condition: list.condition } : {}),
      }
    : null;
  const [at, setAt] = useState<Progress | null>(null);
  // Closing the dialog gives up what is under way.
  const stopping = useRef(new AbortController());
  useEffect(() => {
    const current = (stopping.current = new AbortController());
    return () => current.abort();
  }, []);
  const print = JSON.stringify(body);
  const would = seen?.of === print ? seen.view : null;
  const ask = (path: string, more: object = {}) =>
    callLong<ImportView>(
      `/${path}/${type}`,
      { body: { ...body, ...more }, person: person.id, signal: stopping.current.signal },
      setAt,
    ).finally(() => setAt(null));
  const look = () =>
    looking.run(
      () => ask('list-edit-rehearsals'),
      null,
      (found) => setSeen({ of: print, view: found }),
    );
  const save = () =>
    saving.run(
      async () => {
        const note = `${certain(form.field).name} of a list of ${writeCount(certain(would).read)} ${plural}`;
        const saved = await ask('list-edits', { expected: certain(would).changed, note });
        await forget.records();
        return saved;
      },
      ({ changed }) =>
        `Saved ${writeCount(changed)} ${plural} as one run; the ledger has it, to be undone from there if need be.`,
      onDone,
    );
  return (
    <Dialog
      open
      width={680}
      title={`Edit the whole list of ${plural}`}
      onCancel={onClose}
      footer={[
        <Button key="not" onClick={onClose}>
          Not now
        </Button>,
        <Button
          key="look"
          type={would ? 'default' : 'primary'}
          disabled={body === null || would !== null}
          loading={looking.isBusy}
          onClick={() => void look()}
        >
          Look what it would do
        </Button>,
        <Button
          key="save"
          type="primary"
          disabled={would === null || would.changed === 0 || would.refused > 0}
          loading={saving.isBusy}
          onClick={() => void save()}
        >
          {would ? `Save ${writeCount(would.changed)}` : 'Save'}
        </Button>,
      ]}
    >
      <p className="quiet">
        {list.search || list.condition
          ? `All ${plural} that the list holds as it is narrowed now, also those that aren’t shown yet.`
          : `All ${plural} that there are.`}
      </p>
      <BulkForm form={form} />
      <ProblemNotice error={looking.error ?? saving.error} />
      {looking.isBusy || saving.isBusy ? (
        <div className={intakeStyle.importProgress} role="status">
          <ProgressBar share={1} at={at} isSaving={saving.isBusy} />
        </div>
      ) : would ? (
        <section className={style.listWould} aria-label="What it would do" aria-live="polite">
          <p>
            {writeCount(would.read)} {plural} in the list.
            {would.refused > 0
              ? ' Some can’t have this value, so nothing can be saved: narrow the list, or correct them first.'
              : ''}
          </p>
          <ImportResult view={would} type={recordType} isOfList />
        </section>
      ) : null}
    </Dialog>
  );
}
