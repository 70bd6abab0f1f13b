'use client';

import { type Link } from '@/core/model';
import type { WireRecord } from '@/core/verify';
import { HolderOutlined } from '@ant-design/icons';
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
import { clsx } from 'clsx';
import style from './tree-row.module.css';
import type { TreeScope } from './tree-scope';

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
export function useDropPlace(record: WireRecord): [(element: HTMLElement | null) => void, boolean] {
  const { setNodeRef, isOver, active } = useDroppable({ id: `onto ${record.id}`, data: { record } });
  const dragged = active?.data.current as Dragged | undefined;
  const fits = isOver && dragged?.parentType === record.type && dragged.record.id !== record.id;
  return [setNodeRef, fits];
}

/** Drags a record onto another parent. */
export function Handle({ record, link, title }: { record: WireRecord; link: Link; title: string }) {
  const data: Dragged = { record, link: link.link, parentType: link.parent };
  const { setNodeRef, listeners, transform, isDragging } = useDraggable({
    id: `${link.link} ${record.id}`,
    data,
  });
  return (
    <span
      ref={setNodeRef}
      {...listeners}
      className={clsx(style.treeHandle, isDragging && style.dragging)}
      style={transform ? { transform: `translate(${transform.x}px, ${transform.y}px)` } : undefined}
      title={`Drag ${title} to another ${link.field.name.toLowerCase()}`}
      aria-hidden
    >
      <HolderOutlined />
      {isDragging ? <span className={style.treeGhost}>{title}</span> : null}
    </span>
  );
}
