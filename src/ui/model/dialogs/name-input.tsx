'use client';

import { Input } from 'antd';
import { useId } from 'react';

interface NameInputProps {
  readonly value: string;
  readonly placeholder?: string;
  readonly onChange: (name: string) => void;
}

/** What is made or changed in a dialog is named first. */
export function NameInput({ value, placeholder, onChange }: NameInputProps) {
  const id = useId();
  return (
    <>
      <label htmlFor={id}>Name</label>
      <Input
        {...{ id, value, placeholder }}
        autoFocus
        maxLength={80}
        onChange={(event) => onChange(event.target.value)}
      />
    </>
  );
}
