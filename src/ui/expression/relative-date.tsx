'use client';

import type { Expression } from '@/core/expression';
import {
  DAY_BASE_WORDS,
  DAY_BASES,
  DAY_UNIT_WORDS,
  DAY_UNITS,
  type DayBase,
  type DayUnit,
  MONTHS,
  MOST_AWAY,
} from '@/core/values';
import { Button, InputNumber, Select } from 'antd';
import style from './relative-date.module.css';

type Day = Extract<Expression, { kind: 'day' }>;

interface RelativeProps {
  readonly day: Day | null;
  /** Of a moment hours may be counted, too. */
  readonly hasHours?: boolean;
  readonly onChange: (day: Day | null) => void;
}

/** A date that moves with the day: `6 months before today`. */
export function RelativeChoice({ day, hasHours = false, onChange }: RelativeProps) {
  if (!day)
    return (
      <Button size="small" onClick={() => onChange({ kind: 'day', from: 'today', plus: -6, unit: 'month' })}>
        or relative to today
      </Button>
    );
  const isBefore = day.plus <= 0;
  const begins = day.financialYear ?? { month: 1, day: 1 };
  const countFrom = (from: DayBase) => {
    const { financialYear: _, ...rest } = day;
    onChange({ ...rest, from, ...(from === 'financialYearStart' ? { financialYear: begins } : {}) });
  };
  return (
    <span className={style.relativeDay}>
      <InputNumber
        aria-label="How many"
        min={0}
        max={MOST_AWAY}
        precision={0}
        value={Math.abs(day.plus)}
        onChange={(many) => onChange({ ...day, plus: (isBefore ? -1 : 1) * (many ?? 0) || 0 })}
        style={{ width: 64 }}
      />
      <Select
        aria-label="Unit"
        value={day.unit}
        options={DAY_UNITS.filter((unit) => hasHours || unit !== 'hour').map((unit) => ({
          value: unit,
          label: `${DAY_UNIT_WORDS[unit]}s`,
        }))}
        onChange={(unit: DayUnit) => onChange({ ...day, unit })}
        style={{ width: 124 }}
      />
      <Select
        aria-label="Before or after"
        disabled={day.plus === 0}
        value={isBefore ? 'before' : 'after'}
        options={[
          { value: 'before', label: 'before' },
          { value: 'after', label: 'after' },
        ]}
        onChange={(side) =>
          onChange({ ...day, plus: (side === 'before' ? -1 : 1) * Math.abs(day.plus) || 0 })
        }
        style={{ width: 86 }}
      />
      <Select
        aria-label="From"
        value={day.from}
        options={DAY_BASES.map((from) => ({
          value: from,
          label: `${DAY_BASE_WORDS[from]}${day.unit === 'hour' ? ' began' : ''}`,
        }))}
        onChange={countFrom}
        style={{ width: 232 }}
      />
      {day.from === 'financialYearStart' && (
        <span>
          which begins on{' '}
          <InputNumber
            aria-label="Day on which the financial year begins"
            min={1}
            max={28}
            precision={0}
            value={begins.day}
            onChange={(of) => onChange({ ...day, financialYear: { ...begins, day: of ?? 1 } })}
            style={{ width: 56 }}
          />{' '}
          <Select
            aria-label="Month in which the financial year begins"
            value={begins.month}
            options={MONTHS.map((label, at) => ({ value: at + 1, label }))}
            onChange={(month: number) => onChange({ ...day, financialYear: { ...begins, month } })}
            style={{ width: 116 }}
          />
        </span>
      )}
      <Button size="small" onClick={() => onChange(null)}>
        A certain date
      </Button>
    </span>
  );
}
