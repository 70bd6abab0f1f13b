'use client';

import { Input } from 'antd';

/** The name under which something of the bench is kept; a dialog begins there. */
export function NameInput({
  value,
  onChange,
  placeholder = 'Name',
}: {
  value: string;
  onChange: (name: string) => void;
  placeholder?: string;
}) {
  return (
    <Input
      aria-label="Name"
      autoFocus
      maxLength={80}
      placeholder={placeholder}
      value={value}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}
