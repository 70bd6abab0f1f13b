'use client';

import { type Field, type OptionList, type RecordType, keyOf } from '@/core/model';
import { type Option, type Replaced, type ValueType } from '@/core/values';
import { CloseOutlined, PlusOutlined } from '@ant-design/icons';
import { Button, Input, Select } from 'antd';
import { MoveButtons } from '@/ui/kit/move-buttons';
import { clsx } from 'clsx';
import modelStyle from '@/ui/model/model.module.css';
import style from './option-rows.module.css';

/** Options from a list that serves several fields, or of the field's own. */
export function OptionSettings({ draft, onChange, before, lists, id }: SettingsProps) {
  const { field, replaced } = draft;
  if (field.type.kind !== 'choice' && field.type.kind !== 'choices') return null;
  const { list, options, kind } = field.type;
  const put = (type: ValueType, next: Replaced = replaced) =>
    onChange({ ...draft, field: { ...field, type }, replaced: next });
  const had =
    before && (before.type.kind === 'choice' || before.type.kind === 'choices') ? before.type.options : [];
  return (
    <>
      <label htmlFor={id('list')}>Options</label>
      <Select
        id={id('list')}
        value={list ?? ''}
        options={[
          { value: '', label: 'of its own' },
          ...lists.map(({ key, name }) => ({ value: key, label: `from the list ${name}` })),
        ]}
        onChange={(key: string) => {
          const chosen = lists.find((one) => one.key === key);
          put(chosen ? { kind, options: chosen.options, list: key } : { kind, options });
        }}
      />
      {list === undefined ? (
        <>
          <span />
          <OptionRows options={options} onChange={(next) => put({ kind, options: next })} />
        </>
      ) : null}
      <Replacements {...{ had, options, replaced }} onChange={(next) => put(field.type, next)} />
    </>
  );
}

/** Options in their order, which is their rank. */
export function OptionRows({
  options,
  onChange,
}: {
  options: readonly Option[];
  onChange: (options: readonly Option[]) => void;
}) {
  const at = (index: number, option: Option | null) =>
    option ? options.with(index, option) : options.toSpliced(index, 1);
  const add = () =>
    onChange([
      ...options,
      { key: keyOf(`option ${options.length + 1}`, new Set(options.map(({ key }) => key))), name: '' },
    ]);
  return (
    <div className={clsx(style.optionRows, modelStyle.tall)}>
      {options.map((option, index) => (
        <div key={option.key} className={style.optionRow}>
          <Input
            size="small"
            aria-label={`Option ${index + 1}`}
            value={option.name}
            autoFocus={option.name === ''}
            onChange={(event) => onChange(at(index, { ...option, name: event.target.value }))}
            onPressEnter={(event) => {
              // It stands in a dialog, which Enter would finish.
              event.preventDefault();
              add();
            }}
            onPaste={(event) => {
              const names = pastedNames(event.clipboardData.getData('text'));
              if (names.length < 2) return;
              event.preventDefault();
              onChange(withPasted(options, index, names));
            }}
          />
          <MoveButtons {...{ index, name: option.name, items: options }} onChange={onChange} />
          <Button
            size="small"
            type="text"
            icon={<CloseOutlined />}
            aria-label={`Remove ${option.name}`}
            onClick={() => onChange(at(index, null))}
          />
        </div>
      ))}
      <Button size="small" icon={<PlusOutlined />} onClick={add} style={{ alignSelf: 'flex-start' }}>
        Add an option
      </Button>
    </div>
  );
}

/** What was copied as a list: of lines, or of cells side by side. One alone is typed as it is. */
export const pastedNames = (text: string): string[] => [
  ...new Set(
    text
      .split(/[\r\n\t]+/)
      .map((name) => name.trim())
      .filter((name) => name !== ''),
  ),
];

/** Options with a pasted list in place of one, or after it where it has a name; those that are there already are left out. */
export function withPasted(
  options: readonly Option[],
  at: number,
  names: readonly string[],
): readonly Option[] {
  const kept = options.filter((option, index) => index !== at || option.name.trim() !== '');
  const there = new Set(kept.map(({ name }) => name.trim().toLowerCase()));
  const taken = new Set(options.map(({ key }) => key));
  const added = names
    .filter((name) => !there.has(name.toLowerCase()))
    .map((name): Option => {
      const key = keyOf(`option ${taken.size + 1}`, taken);
      taken.add(key);
      return { key, name };
    });
  return kept.toSpliced(kept.length === options.length ? at + 1 : at, 0, ...added);
}

/** Options that go, and what takes the place of each where records have it. */
export function Replacements({
  had,
  options,
  replaced,
  onChange,
}: {
  had: readonly Option[];
  options: readonly Option[];
  replaced: Replaced;
  onChange: (replaced: Replaced) => void;
}) {
  const left = new Set(options.map(({ key }) => key));
  const gone = had.filter(({ key }) => !left.has(key));
  return gone.map(({ key, name }) => (
    <div key={key} className={clsx(modelStyle.wide, modelStyle.modelForm)}>
      <label htmlFor={`replace-${key}`}>In place of {name}</label>
      <Select
        id={`replace-${key}`}
        value={replaced[key] ?? ''}
        options={[
          { value: '', label: 'nothing: the field is emptied' },
          ...options.map((option) => ({ value: option.key, label: option.name })),
        ]}
        onChange={(next: string) => onChange({ ...replaced, [key]: next === '' ? null : next })}
      />
    </div>
  ));
}

export type SettingsProps = FieldFormProps & { readonly id: (name: string) => string };

/** A field while it is written; its kind may not have all its settings yet. */
export interface FieldDraft {
  readonly field: Field;
  /** What stands where the field is empty, if it becomes required. */
  readonly whereEmpty: Field['default'];
  readonly replaced: Replaced;
}

export interface FieldFormProps {
  readonly draft: FieldDraft;
  readonly onChange: (draft: FieldDraft) => void;
  /** The field as it is; `null` for a new one. */
  readonly before: Field | null;
  readonly types: readonly RecordType[];
  readonly lists: readonly OptionList[];
}
