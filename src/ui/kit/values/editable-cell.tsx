'use client';

import { clsx } from 'clsx';
import type { Field } from '@/core/model';
import { displayValue, hasTrait, isUnread, parseValue, type WireValue } from '@/core/values';
import { Tooltip } from 'antd';
import { useEffect, useRef, useState } from 'react';
import { sameWire } from './same-wire';
import { ValueInput } from './value-input';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './editable-cell.module.css';

export interface EditableCellProps {
  readonly field: Field;
  /** What is stored, and what would stand there with what is staged. */
  readonly before: WireValue;
  readonly after: WireValue;
  /** Name of the rule that keeps it: then it can't be edited. */
  readonly keptBy: string | null;
  readonly problem: string | null;
  readonly isMarked: boolean;
  readonly recordTitle: string;
  readonly nameOf: (id: string) => string | undefined;
  readonly onEdit: (value: WireValue) => void;
  /** Opens what a rule keeps into how it came about; left out where that isn't told. */
  readonly onOpenKept?: () => void;
}

/** A value that is pressed to be edited in place; old and new stand side by side. Kept and given ones only show. */
export function EditableCell(props: EditableCellProps) {
  const [isEditing, setEditing] = useState(false);
  if (isEditing) return <CellEditor {...props} onDone={() => setEditing(false)} />;
  return <CellValue {...props} onOpen={() => setEditing(true)} />;
}

function CellValue({
  field,
  before,
  after,
  keptBy,
  problem,
  isMarked,
  recordTitle,
  nameOf,
  onOpen,
  onOpenKept,
}: EditableCellProps & { onOpen: () => void }) {
  const words = (wire: WireValue) => {
    const parsed = parseValue(field.type, wire);
    return parsed.ok ? displayValue(field.type, parsed.value, nameOf) : String(wire);
  };
  const isChanged = !sameWire(before, after);
  const value = (
    <span className="value-pair">
      {isChanged ? <s className="was">{words(before)}</s> : null}
      <span
        className={isChanged ? (keptBy ? 'now' : kitStyle.entered) : after === null ? 'quiet' : undefined}
      >
        {problem ? 'problem' : after === null && !isChanged ? '–' : words(after)}
      </span>
    </span>
  );
  const look = {
    className: clsx(style.cell, isMarked && style.cellMarked),
    'data-cell': isMarked ? 'marked' : '',
  };
  const fixed = keptBy
    ? `Kept by “${keptBy}”`
    : field.type.kind === 'serial'
      ? 'Given by Oikon when the record is made'
      : null;
  if (keptBy && onOpenKept)
    return (
      <Tooltip title={problem ?? fixed}>
        <button
          type="button"
          {...look}
          className={clsx('plain', look.className, style.cellKept)}
          aria-label={`${field.name} of ${recordTitle}: ${words(after)}. Kept by “${keptBy}”: see how`}
          onClick={onOpenKept}
        >
          {value}
        </button>
      </Tooltip>
    );
  if (fixed) {
    return (
      <Tooltip title={problem ?? fixed}>
        <span {...look} className={clsx(look.className, style.cellKept)}>
          {value}
        </span>
      </Tooltip>
    );
  }
  return (
    <button
      type="button"
      {...look}
      className={clsx('plain', look.className)}
      title={words(after)}
      aria-label={`${field.name} of ${recordTitle}: ${words(after)}. Edit`}
      onClick={onOpen}
    >
      {value}
    </button>
  );
}

function CellEditor({
  field,
  after,
  recordTitle,
  nameOf,
  onEdit,
  onDone,
}: EditableCellProps & { onDone: () => void }) {
  const [value, setValue] = useState(after);
  const [problem, setProblem] = useState<string | null>(null);
  const box = useRef<HTMLDivElement>(null);
  const enter = (entered: WireValue) => {
    const parsed = parseValue(field.type, entered);
    if (!parsed.ok) return setProblem(parsed.problem.message);
    if (!sameWire(entered, after)) onEdit(entered);
    onDone();
  };
  useEffect(() => {
    box.current?.querySelector<HTMLElement>('input, textarea')?.focus();
  }, []);
  const isChosen = hasTrait(field.type.kind, 'chosen');
  return (
    <div
      ref={box}
      className={style.cellEditor}
      onKeyDown={(event) => {
        if (event.key === 'Escape') onDone();
        if (event.key === 'Enter' && !isChosen) enter(value);
      }}
      onBlur={(event) => {
        const isLeaving = !event.currentTarget.contains(event.relatedTarget);
        if (isLeaving && !isChosen) enter(value);
        if (
          isLeaving &&
          isChosen &&
          !document.querySelector(
            '.ant-select-dropdown:not(.ant-select-dropdown-hidden), .ant-picker-dropdown:not(.ant-picker-dropdown-hidden)',
          )
        )
          onDone();
      }}
    >
      <ValueInput
        type={field.type}
        value={value}
        title={typeof value === 'string' ? nameOf(value) : undefined}
        label={`${field.name} of ${recordTitle}`}
        isWrong={problem !== null}
        startsOpen
        autoFocus
        onChange={(chosen) => {
          setValue(chosen);
          setProblem(null);
          if (isChosen) enter(chosen);
        }}
      />
      {problem && !isUnread(value) ? (
        <p role="alert" className={kitStyle.cellProblem}>
          {problem}
        </p>
      ) : null}
    </div>
  );
}
