'use client';

import {
  displayValue,
  formInUse,
  hasTrait,
  isUnread,
  parseValue,
  readText,
  toWire,
  typedForms,
  type ValueType,
  type WireValue,
} from '@/core/values';
import { Input, type InputRef } from 'antd';
import { type KeyboardEvent, type ReactNode, type Ref, useState } from 'react';
import { useModelView } from '@/ui/api/queries';
import { sameWire } from './same-wire';
import style from './typed-input.module.css';

export interface Common {
  readonly id?: string | undefined;
  readonly 'aria-label': string;
  readonly status?: 'error' | undefined;
  readonly autoFocus?: boolean | undefined;
}

export interface TypedInputProps extends Common {
  /** A kind whose values are typed as people write them: numbers, amounts, dates, date-times. */
  readonly type: ValueType;
  readonly value: WireValue;
  /** Given the value that was read, or what was typed and can't be. */
  readonly onChange: (value: WireValue) => void;
  readonly suffix?: ReactNode;
  readonly placeholder?: string | undefined;
  readonly ref?: Ref<InputRef>;
  readonly onBlur?: () => void;
  readonly onKeyDown?: (event: KeyboardEvent<HTMLInputElement>) => void;
}

/** The day by which “tomorrow” and years that are left out are told: that of the workspace. */
export function useToday(): string {
  const { data } = useModelView();
  return data?.settledDay ?? new Date().toISOString().slice(0, 10);
}

/** Reads what a person typed, by their form: the value, or the text with why it can't be read. */
export function readTyped(type: ValueType, typed: string, today: string): WireValue {
  const read = readText(type, typed, typedForms(formInUse(), today));
  return read.ok ? toWire(type, read.value) : { typed, why: read.problem.message };
}

/** A value as it stands in an input: as it is shown elsewhere, without unit and currency, which stand beside it. */
export function typedText(type: ValueType, value: WireValue): string {
  if (value === null) return '';
  if (isUnread(value)) return value.typed;
  const parsed = parseValue(type, value);
  if (!parsed.ok || parsed.value === null) return typeof value === 'string' ? value : '';
  const shown = displayValue(type.kind === 'number' ? { ...type, unit: '' } : type, parsed.value);
  return type.kind === 'money' || type.kind === 'anyMoney' ? shown.replace(/ [A-Z]{3}$/, '') : shown;
}

/** Keeps what is typed as it is typed, until one leaves it; then it stands as it was read, or it is told why it can't be. */
export function TypedInput({ isTold = true, ...props }: TypedInputProps & { readonly isTold?: boolean }) {
  const [isTyping, setTyping] = useState(false);
  const { value } = props;
  const problem = isTold && !isTyping && isUnread(value) ? value.why : null;
  return (
    <span className={style.typed}>
      <Typed {...props} {...(problem === null ? {} : { status: 'error' })} onTyping={setTyping} />
      {problem === null ? null : (
        <span role="alert" className={style.why}>
          {problem}
        </span>
      )}
    </span>
  );
}

function Typed({
  type,
  value,
  onChange,
  ref,
  onKeyDown,
  onBlur,
  onTyping,
  ...props
}: TypedInputProps & { readonly onTyping: (isTyping: boolean) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  const today = useToday();
  const isAsTyped = typed !== null && sameWire(readTyped(type, typed, today), value);
  const isNumber = hasTrait(type.kind, 'numeric');
  const end = () => {
    setTyped(null);
    onTyping(false);
  };
  return (
    <Input
      {...props}
      {...(ref ? { ref } : {})}
      inputMode={isNumber ? 'decimal' : 'text'}
      value={isAsTyped ? typed : typedText(type, value)}
      onChange={(event) => {
        setTyped(event.target.value);
        onTyping(true);
        onChange(readTyped(type, event.target.value, today));
      }}
      onBlur={() => {
        end();
        onBlur?.();
      }}
      onKeyDown={(event) => {
        if (event.key === 'Enter') end();
        onKeyDown?.(event);
      }}
      {...(isNumber ? { styles: { input: { textAlign: 'right' } } } : {})}
    />
  );
}
