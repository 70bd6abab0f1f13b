'use client';

import { isUnread, shiftDay, type WireValue } from '@/core/values';
import { CalendarOutlined } from '@ant-design/icons';
import { DatePicker, type InputRef } from 'antd';
import { clsx } from 'clsx';
import dayjs from 'dayjs';
import { useRef, useState } from 'react';
import { type Common, TypedInput } from './typed-input';
import style from './date-input.module.css';

export interface DateInputProps extends Common {
  readonly value: WireValue;
  readonly onChange: (value: WireValue) => void;
  /** Given the day once it is meant: chosen, moved, or typed and left. */
  readonly onTaken?: (value: WireValue) => void;
}

/**
 * A day: typed as people write it (`15.9.2026`, `17 sep`, `tomorrow`), moved a day by the arrows up and down, or chosen in a calendar. Enter takes what
 * was typed; it doesn't send the form that the day is in.
 */
export function DateInput({ value, onChange, onTaken, ...common }: DateInputProps) {
  const [isCalendar, setCalendar] = useState(false);
  const input = useRef<InputRef>(null);
  const day = typeof value === 'string' ? value : null;
  const take = (to: WireValue) => {
    onChange(to);
    onTaken?.(to);
  };
  const back = () => {
    setCalendar(false);
    requestAnimationFrame(() => input.current?.focus());
  };
  if (isCalendar)
    return (
      <DatePicker
        open
        autoFocus
        inputReadOnly
        allowClear={false}
        aria-label={`${common['aria-label']}, calendar`}
        className={style.calendar}
        value={day === null ? null : dayjs(day)}
        onChange={(chosen) => {
          take(chosen ? chosen.format('YYYY-MM-DD') : null);
          back();
        }}
        onOpenChange={(isOpen) => {
          if (!isOpen) back();
        }}
      />
    );
  return (
    <TypedInput
      {...common}
      type={{ kind: 'date' }}
      value={value}
      onChange={onChange}
      ref={input}
      placeholder="day"
      onBlur={() => onTaken?.(value)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') {
          event.preventDefault();
          onTaken?.(value);
        } else if (event.key === 'ArrowDown' && event.altKey) {
          event.preventDefault();
          setCalendar(true);
        } else if (day !== null && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
          event.preventDefault();
          take(shiftDay(day, event.key === 'ArrowUp' ? 1 : -1) ?? day);
        }
      }}
      suffix={
        <button
          type="button"
          tabIndex={-1}
          className={clsx('plain', style.open)}
          aria-label={`Choose ${common['aria-label']} in a calendar`}
          onMouseDown={(event) => event.preventDefault()}
          onClick={() => setCalendar(true)}
        >
          <CalendarOutlined />
        </button>
      }
    />
  );
}

interface DayChoiceProps {
  readonly label: string;
  readonly day: string;
  /** Given `null` where it was emptied. */
  readonly onChange: (day: string | null) => void;
  readonly isMarked?: boolean;
}

/** A day that something is worked out by: taken once it is meant, not at each key. */
export function DayChoice({ label, day, onChange, isMarked = false }: DayChoiceProps) {
  const [entered, setEntered] = useState<WireValue | undefined>(undefined);
  return (
    <span className={clsx(style.choice, isMarked && style.marked)}>
      <DateInput
        aria-label={label}
        value={entered === undefined ? day : entered}
        onChange={setEntered}
        onTaken={(value) => {
          if (isUnread(value)) return;
          setEntered(undefined);
          if (value !== day) onChange(typeof value === 'string' ? value : null);
        }}
      />
    </span>
  );
}
