import { Decimal, isUnread, type Unread, type WireValue } from '@/core/values';
import { useState } from 'react';
import { TypedInput } from '@/ui/kit/values/typed-input';
import style from './decimal-input.module.css';

interface DecimalInputProps {
  readonly label: string;
  /** As a rule stores them: with a point, ungrouped. */
  readonly digits: string | null;
  readonly placeholder: string;
  readonly onChange: (digits: string | null) => void;
}

/** A number of a rule's own, of any scale, typed as people write it. What can't be read stays as it was typed, is told, and is refused by the check. */
export function DecimalInput({ label, digits, placeholder, onChange }: DecimalInputProps) {
  const [unread, setUnread] = useState<Unread | null>(null);
  return (
    <label>
      {label}{' '}
      <span className={style.decimal}>
        <TypedInput
          aria-label={label}
          type={{ kind: 'number', scale: 20 }}
          value={unread ?? digits}
          placeholder={placeholder}
          onChange={(value) => {
            setUnread(isUnread(value) ? value : null);
            onChange(isUnread(value) ? `${value.typed}?` : value === null ? null : plain(value));
          }}
        />
      </span>
    </label>
  );
}

const plain = (value: WireValue): string => new Decimal(value as string).toFixed();
