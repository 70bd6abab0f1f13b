'use client';

import { type TextForms } from '@/core/values';
import { Select } from 'antd';
import type { Reading } from './read-head';
import style from './reading-form.module.css';

const SEPARATORS = [
  { value: ',', label: 'Comma' },
  { value: ';', label: 'Semicolon' },
  { value: '\t', label: 'Tab' },
  { value: '|', label: 'Vertical bar' },
] as const;
const ENCODINGS = [
  { value: 'utf-8', label: 'UTF-8' },
  { value: 'utf-16le', label: 'UTF-16' },
  { value: 'windows-1252', label: 'Windows-1252 (Western)' },
] as const;
const DECIMALS = [
  { value: '.', label: '1,234.50' },
  { value: ',', label: '1.234,50' },
] as const;
const DATES = [
  { value: 'dayFirst', label: 'day / month / year' },
  { value: 'monthFirst', label: 'month / day / year' },
] as const;

/** How a file is written: guessed from its beginning, and changed where the guess is wrong. */
export function ReadingForm({
  reading,
  forms,
  isSheet,
  onReading,
  onForms,
}: {
  reading: Reading;
  forms: TextForms;
  isSheet: boolean;
  onReading: (reading: Partial<Reading>) => void;
  onForms: (forms: TextForms) => void;
}) {
  return (
    <div className={style.readingForm}>
      {reading.format === 'csv' ? (
        <label>
          Separator
          <Select
            aria-label="Separator"
            value={reading.separator}
            options={[...SEPARATORS]}
            onChange={(separator: Reading['separator']) => onReading({ ...reading, separator })}
          />
        </label>
      ) : null}
      {isSheet ? null : (
        <label>
          Encoding
          <Select
            aria-label="Encoding"
            value={reading.encoding}
            options={[...ENCODINGS]}
            onChange={(encoding: Reading['encoding']) => onReading({ ...reading, encoding })}
          />
        </label>
      )}
      <label>
        Numbers
        <Select
          aria-label="How numbers are written"
          value={forms.decimal}
          options={[...DECIMALS]}
          onChange={(decimal: TextForms['decimal']) => onForms({ ...forms, decimal })}
        />
      </label>
      <label>
        Dates (or year-month-day)
        <Select
          aria-label="How dates are written"
          value={forms.dates}
          options={[...DATES]}
          onChange={(dates: TextForms['dates']) => onForms({ ...forms, dates })}
        />
      </label>
    </div>
  );
}
