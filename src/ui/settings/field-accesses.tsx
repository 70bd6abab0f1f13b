import type { Model, RecordType, TypeAccess } from '@/core/model';
import { Popover, Button, Select } from 'antd';
import { canHide, withField } from './access-draft';
import style from './settings.module.css';

interface FieldAccessesProps {
  readonly model: Model;
  readonly type: RecordType;
  readonly own: TypeAccess;
  readonly onChange: (to: Partial<TypeAccess>) => void;
}

const CHOICES = [
  { value: 'changed', label: 'may change' },
  { value: 'seen', label: 'sees only' },
  { value: 'hidden', label: 'hidden' },
] as const;

function summary({ fields }: TypeAccess): string {
  const all = Object.values(fields);
  const hidden = all.filter((one) => one === 'hidden').length;
  const parts = [
    ...(hidden > 0 ? [`${hidden} hidden`] : []),
    ...(all.length > hidden ? [`${all.length - hidden} seen only`] : []),
  ];
  return parts.length > 0 ? parts.join(', ') : 'all';
}

/** What of a type's fields a role sees, and may change: told in short, opened to be said. */
export function FieldAccesses({ model, type, own, onChange }: FieldAccessesProps) {
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      content={
        <div className={style.fieldAccesses} role="group" aria-label={`Fields of ${type.plural}`}>
          {type.fields.map((field) => (
            <label key={field.key}>
              <span>{field.name}</span>
              <Select
                size="small"
                aria-label={`${field.name} of ${type.plural}`}
                value={own.fields[field.key] ?? 'changed'}
                options={CHOICES.filter(({ value }) => value !== 'hidden' || canHide(model, type.key, field))}
                onChange={(to: (typeof CHOICES)[number]['value']) => onChange(withField(own, field.key, to))}
              />
            </label>
          ))}
        </div>
      }
    >
      <Button
        size="small"
        type="text"
        disabled={!own.see}
        aria-label={`Fields of ${type.plural}: ${summary(own)}`}
      >
        {summary(own)} …
      </Button>
    </Popover>
  );
}
