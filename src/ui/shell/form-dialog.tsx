'use client';

import type { PersonView, WorkspaceView } from '@/core/api';
import {
  DATE_ORDERS,
  type Form,
  formWords,
  NUMBER_FORMS,
  PLAIN_FORM,
  sameForm,
  writeDate,
  writeDigits,
} from '@/core/values';
import { Radio, Select } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { useState } from 'react';
import { callServer } from '@/ui/api/client';
import { useInvalidate } from '@/ui/api/queries';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './form-dialog.module.css';

interface FormDialogProps {
  readonly workspace: WorkspaceView;
  readonly person: PersonView;
  readonly onClose: () => void;
}

/** How numbers and dates are written and read, in a workspace and for oneself. */
export function FormDialog({ workspace, person, onClose }: FormDialogProps) {
  const [common, setCommon] = useState(workspace.form);
  const [own, setOwn] = useState(person.form);
  const forget = useInvalidate();
  const { run, isBusy, error } = useTask();
  const isCommonChanged = !sameForm(common, workspace.form);
  const isOwnChanged = own === null ? person.form !== null : !person.form || !sameForm(own, person.form);
  const save = () =>
    run(
      async () => {
        const send = (address: string, form: Form | null) =>
          callServer(address, { method: 'PATCH', body: { form }, person: person.id });
        if (isCommonChanged) await send(`/api/v1/workspaces/${workspace.key}`, common);
        if (isOwnChanged) await send(`/api/v1/people/${person.id}`, own);
        await forget.everything();
      },
      () => 'Saved.',
      onClose,
    );
  return (
    <Dialog
      open
      title="Numbers and dates"
      okText="Save"
      cancelText="Not now"
      okButtonProps={{ loading: isBusy, disabled: !isCommonChanged && !isOwnChanged }}
      onOk={() => void save()}
      onCancel={onClose}
    >
      <p className="quiet">
        What you type is read this way, and everything is shown so. Files say for themselves how they are
        written; formulas are always written with a point.
      </p>
      <fieldset className={style.whose}>
        <legend>Everybody in “{workspace.name}”</legend>
        <FormChoice whose="Everybody" form={common} onChange={setCommon} />
      </fieldset>
      <fieldset className={style.whose}>
        <legend>{person.name}</legend>
        <Radio.Group
          aria-label={`How ${person.name} writes`}
          className={kitStyle.stacked}
          value={own === null ? 'common' : 'own'}
          onChange={(event) => setOwn(event.target.value === 'own' ? common : null)}
          options={[
            { value: 'common', label: 'As each workspace does' },
            { value: 'own', label: 'In a way of my own' },
          ]}
        />
        {own ? <FormChoice whose={person.name} form={own} onChange={setOwn} /> : null}
      </fieldset>
      <p aria-live="polite">
        You will read {formWords(own ?? common)}, and can type{' '}
        {(own ?? common).dates === 'dayFirst' ? '31.12.2026' : '12/31/2026'}, 31 dec or tomorrow.
      </p>
      <ProblemNotice error={error} />
    </Dialog>
  );
}

const asExample = (form: Pick<Form, 'decimal' | 'grouping'>): string =>
  writeDigits('1250.50', { ...PLAIN_FORM, ...form });

function FormChoice({
  whose,
  form,
  onChange,
}: {
  whose: string;
  form: Form;
  onChange: (form: Form) => void;
}) {
  return (
    <div className={style.choice}>
      <Select
        aria-label={`Numbers, ${whose}`}
        value={NUMBER_FORMS.findIndex((one) => asExample(one) === asExample(form))}
        options={NUMBER_FORMS.map((one, value) => ({ value, label: asExample(one) }))}
        onChange={(at: number) => onChange({ ...form, ...NUMBER_FORMS[at] })}
      />
      <Select
        aria-label={`Dates, ${whose}`}
        value={form.dates}
        options={DATE_ORDERS.map((dates) => ({
          value: dates,
          label: `${writeDate('2026-12-31', { ...form, dates })} · ${dates === 'dayFirst' ? '31.12.2026' : '12/31/2026'}`,
        }))}
        onChange={(dates: Form['dates']) => onChange({ ...form, dates })}
      />
    </div>
  );
}
