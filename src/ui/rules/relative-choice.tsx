'use client';

import type { Expression } from '@/core/expression';
import { type DayBase, type DayUnit, MOST_AWAY } from '@/core/values';
import { Button, InputNumber, Select } from 'antd';

type Day = Extract<Expression, { kind: 'day' }>;

const BASES: readonly { value: DayBase; label: string }[] = [
  { value: 'today', label: 'today' },
  { value: 'monthStart', label: 'the first of this month' },
  { value: 'yearStart', label: 'the first of this year' },
];
const UNITS: readonly DayUnit[] = ['day', 'week', 'month', 'year'];

/** A date that moves with the day: `6 months before today`. */
export function RelativeChoice({ day, onChange }: { day: Day | null; onChange: (day: Day | null) => void }) {
  if (!day)
    return (
      <Button size="small" onClick={() => onChange({ kind: 'day', from: 'today', plus: -6, unit: 'month' })}>
        or relative to today
      </Button>
    );
  const isBefore = day.plus <= 0;
  return (
    <span className="relative-day">
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
        options={UNITS.map((unit) => ({ value: unit, label: `${unit}s` }))}
        onChange={(unit: DayUnit) => onChange({ ...day, unit })}
        style={{ width: 92 }}
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
        options={[...BASES]}
        onChange={(from: DayBase) => onChange({ ...day, from })}
        style={{ width: 180 }}
      />
      <Button size="small" onClick={() => onChange(null)}>
        A certain date
      </Button>
    </span>
  );
}
