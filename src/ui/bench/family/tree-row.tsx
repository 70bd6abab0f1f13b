'use client';

import { type Field, type Link, type Model, typeIn } from '@/core/model';
import { reacts, targetsOf, type Rule } from '@/core/rules';
import { hasTrait, type Kind, type WireValue } from '@/core/values';
import type { FamilyData, WireRecord } from '@/core/verify';
import { DeleteOutlined, HolderOutlined, PlusOutlined, RightOutlined, SwapOutlined } from '@ant-design/icons';
import {
  type CollisionDetection,
  DndContext,
  PointerSensor,
  pointerWithin,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { Button, Popover } from 'antd';
import { createContext, Fragment, useContext, useState } from 'react';
import { cellKey } from '@/ui/kit/values/cell-key';
import { ValueInput } from '@/ui/kit/values/value-input';
import { article } from '@/core/article';
import type { ColumnsOf } from './columns';
import type { Standing } from './as-staged';
import { EditableCell } from '@/ui/kit/values/editable-cell';
import '@/ui/bench/bench.css';

/** What every part of the tree needs to know. */
export interface TreeScope {
  readonly model: Model;
  /** The rules that take part, drafts among them. */
  readonly rules: readonly Rule[];
  readonly family: FamilyData;
  readonly stored: ReadonlyMap<string, WireRecord>;
  /** The records as they would stand. */
  readonly now: Standing;
  readonly columns: ColumnsOf;
  /** Cells to point at: `type id field`. */
  readonly marked: ReadonlySet<string>;
  readonly problems: ReadonlyMap<string, string>;
  readonly nameOf: (id: string) => string | undefined;
  readonly onEdit: (record: WireRecord, field: string, value: WireValue) => void;
  readonly onDelete: (record: WireRecord) => void;
  /** A new record under a parent, and one that is moved to another parent. */
  readonly onAdd: (link: Link, parent: WireRecord) => void;
  readonly onMove: (record: WireRecord, link: string, parent: string) => void;
}

export const Scope = createContext<TreeScope | null>(null);

export function useScope(): TreeScope {
  const scope = useContext(Scope);
  if (!scope) throw new Error('A part of the tree stands outside it');
  return scope;
}

/** What is dragged: a record with the link by which it hangs. */
interface Dragged {
  readonly record: WireRecord;
  readonly link: string;
  readonly parentType: string;
}

/** Records are dragged by their handle onto another parent; with the keyboard they are moved by choosing it. */
export function Dragging({ scope, children }: { scope: TreeScope; children: React.ReactNode }) {
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={underPointer}
      onDragEnd={({ active, over }) => {
        const dragged = active.data.current as Dragged;
        const parent = over?.data.current as { record: WireRecord } | undefined;
        if (!parent || parent.record.type !== dragged.parentType || parent.record.id === dragged.record.id)
          return;
        if (dragged.record.values[dragged.link] !== parent.record.id)
          scope.onMove(dragged.record, dragged.link, parent.record.id);
      }}
    >
      {children}
    </DndContext>
  );
}

/** The parent under the pointer; records of other types are passed over. */
const underPointer: CollisionDetection = (given) => {
  const { parentType } = given.active.data.current as Dragged;
  const fits = given.droppableContainers.filter(
    ({ data }) => (data.current as { record: WireRecord } | undefined)?.record.type === parentType,
  );
  return pointerWithin({ ...given, droppableContainers: fits });
};

/** A place onto which records can be dropped: it says so only while one hangs over it that fits. */
export function useDropPlace(record: WireRecord): [(element: HTMLElement | null) => void, string] {
  const { setNodeRef, isOver, active } = useDroppable({ id: `onto ${record.id}`, data: { record } });
  const dragged = active?.data.current as Dragged | undefined;
  const fits = isOver && dragged?.parentType === record.type && dragged.record.id !== record.id;
  return [setNodeRef, fits ? 'drop-here' : ''];
}

export function useTitle(record: WireRecord): string {
  const { model } = useScope();
  return String(record.values[typeIn(model, record.type).title] ?? record.id);
}

export function Cell({ record, field }: { record: WireRecord; field: Field }) {
  const scope = useScope();
  const title = useTitle(record);
  const key = cellKey(record.type, record.id, field.key);
  const keeper = scope.rules.find(
    ({ definition }) =>
      // Where a field is kept in step the run says so; elsewhere it is open.
      definition.kind !== 'cascade' &&
      !reacts(definition) &&
      targetsOf(scope.model, definition).some((ref) => ref.type === record.type && ref.field === field.key),
  );
  return (
    <EditableCell
      field={field}
      before={scope.stored.get(record.id)?.values[field.key] ?? null}
      after={record.values[field.key] ?? null}
      keptBy={keeper?.name ?? null}
      problem={scope.problems.get(key) ?? null}
      isMarked={scope.marked.has(key)}
      recordTitle={title}
      nameOf={scope.nameOf}
      onEdit={(value) => scope.onEdit(record, field.key, value)}
    />
  );
}

export const isAmount = (kind: Kind) => hasTrait(kind, 'numeric');

export function ChildRow({
  record,
  link,
  columns,
  depth,
}: {
  record: WireRecord;
  link: Link;
  columns: readonly Field[];
  depth: number;
}) {
  const { model, stored, onDelete } = useScope();
  const title = useTitle(record);
  const [isOpen, setOpen] = useState(false);
  const links = model.linksTo(record.type);
  const [setPlace, place] = useDropPlace(record);
  const isNew = !stored.has(record.id);
  const wasElsewhere = !isNew && stored.get(record.id)!.values[link.link] !== record.values[link.link];
  return (
    <>
      <tr ref={setPlace} className={place} data-new={isNew || wasElsewhere || undefined}>
        <th scope="row">
          <Handle record={record} link={link} title={title} />
          {links.length > 0 ? (
            <button
              type="button"
              className="plain tree-toggle"
              aria-expanded={isOpen}
              aria-label={`What hangs under ${title}`}
              onClick={() => setOpen(!isOpen)}
            >
              <RightOutlined rotate={isOpen ? 90 : 0} aria-hidden /> {title}
            </button>
          ) : (
            title
          )}
          {isNew ? <span className="entered tree-mark"> new</span> : null}
          {wasElsewhere ? <span className="entered tree-mark"> moved here</span> : null}
        </th>
        {columns.map((field) => (
          <td key={field.key} className={isAmount(field.type.kind) ? 'amount' : undefined}>
            <Cell record={record} field={field} />
          </td>
        ))}
        <td className="tree-delete">
          <MovePart record={record} link={link} title={title} />
          <Button
            type="text"
            size="small"
            icon={<DeleteOutlined />}
            aria-label={`Delete ${title}`}
            onClick={() => onDelete(record)}
          />
        </td>
      </tr>
      {isOpen ? (
        <tr className="tree-nested">
          <td colSpan={columns.length + 2}>
            {links.map((link) => (
              <Children
                key={`${link.type}.${link.link}`}
                parent={record}
                link={link}
                depth={depth + 1}
                isOpen
              />
            ))}
          </td>
        </tr>
      ) : null}
    </>
  );
}

/** Drags a record onto another parent. */
function Handle({ record, link, title }: { record: WireRecord; link: Link; title: string }) {
  const data: Dragged = { record, link: link.link, parentType: link.parent };
  const { setNodeRef, listeners, transform, isDragging } = useDraggable({
    id: `${link.link} ${record.id}`,
    data,
  });
  return (
    <span
      ref={setNodeRef}
      {...listeners}
      className={isDragging ? 'tree-handle dragging' : 'tree-handle'}
      style={transform ? { transform: `translate(${transform.x}px, ${transform.y}px)` } : undefined}
      title={`Drag ${title} to another ${link.field.name.toLowerCase()}`}
      aria-hidden
    >
      <HolderOutlined />
      {isDragging ? <span className="tree-ghost">{title}</span> : null}
    </span>
  );
}

/** The same by choosing the parent. */
function MovePart({ record, link, title }: { record: WireRecord; link: Link; title: string }) {
  const { onMove, nameOf } = useScope();
  const [isOpen, setOpen] = useState(false);
  const value = record.values[link.link] ?? null;
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      open={isOpen}
      onOpenChange={setOpen}
      destroyOnHidden
      content={
        <div className="part-form">
          <span className="quiet">Move to another {link.field.name.toLowerCase()}</span>
          <ValueInput
            type={{ kind: 'link', target: link.parent }}
            value={value}
            title={typeof value === 'string' ? nameOf(value) : undefined}
            label={`${link.field.name} of ${title}`}
            autoFocus
            onChange={(parent) => {
              setOpen(false);
              if (typeof parent === 'string' && parent !== value) onMove(record, link.link, parent);
            }}
          />
        </div>
      }
    >
      <Button type="text" size="small" icon={<SwapOutlined />} aria-label={`Move ${title}`} />
    </Popover>
  );
}

export function Children({
  parent,
  link,
  depth,
  isOpen: startsOpen,
}: {
  parent: WireRecord;
  link: Link;
  depth: number;
  isOpen: boolean;
}) {
  const { model, now, columns: columnsOf, family, stored, onAdd } = useScope();
  const [isOpen, setOpen] = useState(startsOpen);
  const [most, setMost] = useState(MOST_ROWS);
  const children = now.childrenOf(link, parent.id);
  // New records and those that were moved here are never out of sight.
  const rest = children.slice(most);
  const isHere = ({ id }: WireRecord) => stored.get(id)?.values[link.link] === parent.id;
  const shown = [...children.slice(0, most), ...rest.filter((record) => !isHere(record))];
  const isKnown = family.complete.some(
    (entry) => entry.type === link.type && entry.link === link.link && entry.parent === parent.id,
  );
  const columns = columnsOf(link.type, link.link);
  const name = link.field.otherEnd ?? typeIn(model, link.type).plural;
  return (
    <div className="tree-children" style={{ marginLeft: depth === 0 ? 0 : 26 }}>
      <button
        type="button"
        className="plain tree-toggle"
        aria-expanded={isOpen}
        onClick={() => setOpen(!isOpen)}
      >
        <RightOutlined rotate={isOpen ? 90 : 0} aria-hidden /> {name}{' '}
        <span className="quiet">
          {isKnown ? children.length : `${children.length} here, others outside this family`}
        </span>
      </button>
      <Button
        type="text"
        size="small"
        className="tree-add"
        icon={<PlusOutlined aria-hidden />}
        onClick={() => {
          setOpen(true);
          onAdd(link, parent);
        }}
      >
        Add {article(typeIn(model, link.type).name)} {typeIn(model, link.type).name.toLowerCase()}
      </Button>
      {isOpen && children.length > 0 ? (
        <table className="tree-table">
          <thead>
            <tr>
              <th scope="col">{typeIn(model, link.type).name}</th>
              {columns.map((field) => (
                <th key={field.key} scope="col" className={isAmount(field.type.kind) ? 'amount' : undefined}>
                  {field.name}
                </th>
              ))}
              <th scope="col">
                <span className="visually-hidden">Move, delete</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {shown.map((record) => (
              <ChildRow key={record.id} record={record} link={link} columns={columns} depth={depth} />
            ))}
          </tbody>
        </table>
      ) : null}
      {isOpen && children.length > shown.length ? (
        <Button size="small" className="tree-more" onClick={() => setMost(most + MOST_ROWS)}>
          Show {Math.min(MOST_ROWS, children.length - shown.length).toLocaleString('en-GB')} more of{' '}
          {children.length.toLocaleString('en-GB')}
        </Button>
      ) : null}
    </div>
  );
}

/** Rows of one table that are shown at once; each is much for a browser. */
export const MOST_ROWS = 100;
