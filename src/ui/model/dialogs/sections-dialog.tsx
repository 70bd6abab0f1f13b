'use client';

import { sameData, firstIn } from '@/core/values';
import type { Expression } from '@/core/expression';
import { type Model, type ModelChange, type RecordType, type Section, typeIn } from '@/core/model';
import { ArrowDownOutlined, ArrowUpOutlined, CloseOutlined, PlusOutlined } from '@ant-design/icons';
import { Button, Input, Select } from 'antd';
import { useState } from 'react';
import { usePeople } from '@/ui/api/queries';
import { Condition } from '@/ui/expression/condition';
import { ChangeDialog } from './change-dialog';
import expressionStyle from '@/ui/expression/expression.module.css';
import style from './sections-dialog.module.css';

interface SectionsDialogProps {
  readonly model: Model;
  readonly version: number;
  readonly type: RecordType;
  readonly onClose: () => void;
}

/** Arranges the page of a type's records: fields in sections, and sections and lists that appear by a condition. */
export function SectionsDialog({ model, version, type, onClose }: SectionsDialogProps) {
  const before = type.sections ?? [];
  const [sections, setSections] = useState<readonly Section[]>(before);
  const put = (at: number, section: Section | null) =>
    setSections(
      section
        ? sections.map((one, place) => (place === at ? section : one))
        : sections.filter((_, place) => place !== at),
    );
  const move = (at: number, by: number) => {
    const section = firstIn(sections.slice(at, at + 1));
    setSections(sections.toSpliced(at, 1).toSpliced(at + by, 0, section));
  };
  const finished = sections.map((section) => ({ ...section, name: section.name.trim() }));
  const isChanged = !sameData(finished, before);
  const change: ModelChange = { kind: 'arrange', key: type.key, sections: finished };
  return (
    <ChangeDialog
      title={`The page of ${type.plural.toLowerCase()}`}
      changes={isChanged && finished.every(({ name }) => name !== '') ? [change] : null}
      version={version}
      apply="Arrange it so"
      done="Arranged."
      onClose={onClose}
    >
      <p className="quiet">Fields in no section come first, in the order of the model.</p>
      {sections.map((section, at) => (
        <SectionDraft
          key={at}
          {...{ model, type, section, sections }}
          isFirst={at === 0}
          isLast={at === sections.length - 1}
          onChange={(next) => put(at, next)}
          onMove={(by) => move(at, by)}
        />
      ))}
      <p>
        <Button icon={<PlusOutlined />} onClick={() => setSections([...sections, { name: '', fields: [] }])}>
          Add a section
        </Button>
      </p>
    </ChangeDialog>
  );
}

interface SectionDraftProps {
  readonly model: Model;
  readonly type: RecordType;
  readonly section: Section;
  readonly sections: readonly Section[];
  readonly isFirst: boolean;
  readonly isLast: boolean;
  readonly onChange: (section: Section | null) => void;
  readonly onMove: (by: number) => void;
}

function SectionDraft(props: SectionDraftProps) {
  const { model, type, section, sections, isFirst, isLast, onChange, onMove } = props;
  const people = usePeople();
  const { name, fields, lists = [], condition } = section;
  const elsewhere = new Set(sections.filter((one) => one !== section).flatMap((one) => one.fields));
  const links = model.linksTo(type.key);
  const withCondition = (next: Expression | null): Section => {
    const { condition: _gone, ...others } = section;
    return next ? { ...others, condition: next } : others;
  };
  const label = name || 'a section';
  return (
    <div className={style.sectionDraft} role="group" aria-label={`Section ${name}`}>
      <div className={style.sectionHead}>
        <Input
          aria-label="Name of the section"
          maxLength={80}
          placeholder="Name"
          value={name}
          onChange={(event) => onChange({ ...section, name: event.target.value })}
        />
        <Button
          icon={<ArrowUpOutlined />}
          disabled={isFirst}
          aria-label={`Move ${label} up`}
          onClick={() => onMove(-1)}
        />
        <Button
          icon={<ArrowDownOutlined />}
          disabled={isLast}
          aria-label={`Move ${label} down`}
          onClick={() => onMove(1)}
        />
        <Button icon={<CloseOutlined />} aria-label={`Remove ${label}`} onClick={() => onChange(null)} />
      </div>
      <Select
        aria-label={`Fields of ${label}`}
        mode="multiple"
        showSearch={{ optionFilterProp: 'label' }}
        placeholder="Fields, in their order"
        value={fields as string[]}
        options={type.fields.map((field) => ({
          value: field.key,
          label: field.name,
          disabled: elsewhere.has(field.key),
        }))}
        onChange={(next: string[]) => onChange({ ...section, fields: next })}
        style={{ width: '100%' }}
      />
      {links.length > 0 ? (
        <Select
          aria-label={`Lists of ${label}`}
          mode="multiple"
          showSearch={{ optionFilterProp: 'label' }}
          placeholder="Lists that appear with it"
          value={lists as string[]}
          options={links.map(({ type: child, link, field }) => ({
            value: `${child}.${link}`,
            label: `${field.otherEnd} (${typeIn(model, child).plural})`,
          }))}
          onChange={(next: string[]) => onChange({ ...section, lists: next })}
          style={{ width: '100%', marginTop: 6 }}
        />
      ) : null}
      <div className={expressionStyle.sentence}>
        Shown
        <Condition
          {...{ model }}
          type={type.key}
          condition={condition ?? null}
          onChange={(next) => onChange(withCondition(next))}
          nameOf={(id) => people.data?.people.find((person) => person.id === id)?.name}
        />
      </div>
    </div>
  );
}
