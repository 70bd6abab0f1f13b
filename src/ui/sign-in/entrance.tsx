'use client';

import { Button, Input } from 'antd';
import { type FormEvent, type InputHTMLAttributes, type ReactNode, useId, useSyncExternalStore } from 'react';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { OikonMark } from '@/ui/theme/glyphs';
import { clsx } from 'clsx';
import style from './entrance.module.css';

interface EntranceProps {
  readonly title: string;
  readonly lead: ReactNode;
  readonly children?: ReactNode;
}

/** What stands before Oikon: one sheet with what is to be given. */
export const Entrance = ({ title, lead, children }: EntranceProps) => (
  <main className={style.entrance}>
    <section className={clsx('sheet', style.sheet)} aria-labelledby="entrance">
      <p className={style.mark}>
        <OikonMark size={26} /> Oikon
      </p>
      <h1 id="entrance">{title}</h1>
      <p className={style.lead}>{lead}</p>
      {children}
    </section>
  </main>
);

interface EntryFormProps {
  readonly press: string;
  readonly error: Error | null;
  readonly isBusy: boolean;
  readonly onEnter: () => void;
  readonly children: ReactNode;
}

const never = () => () => undefined;

/** Whether the page listens: what is typed before would be lost. */
export const useListening = (): boolean =>
  useSyncExternalStore(
    never,
    () => true,
    () => false,
  );

/** Fields, what was wrong with them, and the press; Enter is the press. They are there as soon as the page listens. */
export function EntryForm({ press, error, isBusy, onEnter, children }: EntryFormProps) {
  const isListening = useListening();
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!isBusy) onEnter();
  };
  if (!isListening) return null;
  return (
    <form onSubmit={submit} noValidate>
      {children}
      <ProblemNotice error={error} />
      <Button type="primary" htmlType="submit" block loading={isBusy}>
        {press}
      </Button>
    </form>
  );
}

interface EntryFieldProps {
  readonly name: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
  readonly hint?: string;
  /** What the browser may fill in, and keep. */
  readonly autoComplete: InputHTMLAttributes<HTMLInputElement>['autoComplete'];
  readonly isFirst?: boolean;
  readonly isPassword?: boolean;
}

/** A field, with what helps with it. A password may be looked at as it is typed, and pasted. */
export function EntryField({
  name,
  value,
  onChange,
  hint,
  autoComplete,
  isFirst = false,
  isPassword = false,
}: EntryFieldProps) {
  const id = useId();
  const hintId = `${id}-hint`;
  const Typed = isPassword ? Input.Password : Input;
  return (
    <div className={style.field}>
      <label htmlFor={id}>{name}</label>
      <Typed
        {...{ id, value, autoComplete }}
        autoFocus={isFirst}
        aria-describedby={hint ? hintId : undefined}
        onChange={(event) => onChange(event.target.value)}
      />
      {hint ? (
        <span id={hintId} className={style.hint}>
          {hint}
        </span>
      ) : null}
    </div>
  );
}

export const PasswordField = (props: EntryFieldProps) => <EntryField {...props} isPassword />;
