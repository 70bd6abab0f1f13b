'use client';

import { firstIn, type WireValue } from '@/core/values';
import { fieldIn, type Model, type OpenLink, typeIn } from '@/core/model';
import { Select } from 'antd';
import { useState } from 'react';
import { ValueInput } from '@/ui/kit/values/value-input';
import formStyle from './form.module.css';
import style from './open-link-field.module.css';

export interface OpenLinkFieldProps {
  readonly model: Model;
  readonly type: string;
  readonly open: OpenLink;
  readonly values: Readonly<Record<string, WireValue>>;
  readonly names: Readonly<Record<string, string>>;
  /** That it is required, in words; `null` where it isn't. */
  readonly required: string | null;
  /** What is wrong with it, or with one of its links. */
  readonly problem: string | undefined;
  readonly onEnter: (values: Readonly<Record<string, WireValue>>) => void;
}

/** One parent of one of several types: first the type, then the record. Choosing one empties the other links. */
export function OpenLinkField(props: OpenLinkFieldProps) {
  const { model, type, open, values, names, required, problem, onEnter } = props;
  const filled = open.links.find((link) => (values[link] ?? null) !== null);
  const [chosen, setChosen] = useState<string | null>(null);
  const link = filled ?? chosen ?? firstIn(open.links);
  const targets = open.links.map((key) => {
    const { type: of } = fieldIn(model, type, key);
    return { value: key, label: of.kind === 'link' ? typeIn(model, of.target).name : key };
  });
  const value = values[link] ?? null;
  const put = (key: string, next: WireValue) =>
    onEnter(Object.fromEntries(open.links.map((one) => [one, one === key ? next : null])));
  return (
    <div className={formStyle.recordField} role="group" aria-label={open.name}>
      <label htmlFor={`field-${open.key}`}>
        {open.name}
        {required === null ? null : <span className="quiet">{required}</span>}
      </label>
      <div className={style.openLink}>
        <Select
          aria-label={`Type of ${open.name}`}
          value={link}
          options={targets}
          onChange={(key: string) => {
            setChosen(key);
            if (filled) put(key, null);
          }}
        />
        <ValueInput
          key={link}
          id={`field-${open.key}`}
          label={open.name}
          type={fieldIn(model, type, link).type}
          value={value}
          title={typeof value === 'string' ? names[value] : undefined}
          isWrong={problem !== undefined}
          onChange={(next) => put(link, next)}
        />
      </div>
      {problem === undefined ? null : (
        <p role="alert" className={formStyle.fieldProblem}>
          {problem}
        </p>
      )}
      {open.help && problem === undefined ? <p className={formStyle.fieldHelp}>{open.help}</p> : null}
    </div>
  );
}
