'use client';

import { type Field, type Link, typeIn } from '@/core/model';
import { hasTrait, type Kind, sameData, valueAt, writeCount } from '@/core/values';
import type { WireRecord } from '@/core/verify';
import { DeleteOutlined, PlusOutlined, RightOutlined, SwapOutlined } from '@ant-design/icons';
import { Button, Popover } from 'antd';
import { memo, useMemo, useState } from 'react';
import { cellKey } from '@/ui/kit/values/cell-key';
import { ValueInput } from '@/ui/kit/values/value-input';
import { article } from '@/core/article';
import { EditableCell } from '@/ui/kit/values/editable-cell';
import { clsx } from 'clsx';
import expressionStyle from '@/ui/expression/expression.module.css';
import familyStyle from './family.module.css';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './tree-row.module.css';
import { Handle, useDropPlace } from './tree-drag';
import { useScope } from './tree-scope';
import { VirtualRows } from './virtual-rows';

export function useTitle(record: WireRecord): string {
  const { model } = useScope();
  return String(record.values[typeIn(model, record.type).title] ?? record.id);
}

/** Drawn again only where what it shows is otherwise: what it does is looked up when it is done. Names of records and people may change beside it. */
const CellOfRow = memo(
  EditableCell,
  (a, b) =>
    a.field === b.field &&
    !['link', 'person'].includes(a.field.type.kind) &&
    sameData(a.before, b.before) &&
    sameData(a.after, b.after) &&
    a.keptBy === b.keptBy &&
    a.problem === b.problem &&
    a.isMarked === b.isMarked &&
    a.recordTitle === b.recordTitle,
);

export function Cell({ record, field }: { record: WireRecord; field: Field }) {
  const scope = useScope();
  const title = useTitle(record);
  const key = cellKey(record.type, record.id, field.key);
  const keeper = scope.keepers.get(`${record.type} ${field.key}`);
  const { latest } = scope;
  return (
    <CellOfRow
      field={field}
      before={scope.stored.get(record.id)?.values[field.key] ?? null}
      after={record.values[field.key] ?? null}
      keptBy={keeper?.name ?? null}
      problem={scope.problems.get(key) ?? null}
      isMarked={scope.marked.has(key)}
      recordTitle={title}
      nameOf={scope.nameOf}
      onEdit={(value) => latest.current.onEdit(record, field.key, value)}
      {...(keeper ? { onOpenKept: () => latest.current.onRead(keeper.id, record.id) } : {})}
    />
  );
}

export const isAmount = (kind: Kind) => hasTrait(kind, 'numeric');

export const ChildRow = memo(function ChildRow({
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
  const { model, stored, now, onDelete, inSight, opened } = useScope();
  const title = useTitle(record);
  // Where only some are shown, they are in sight without being opened one by one.
  const [isOpened, setOpened] = useState(opened.get(`${link.link} ${record.id}`) ?? null);
  const setOpen = (isNow: boolean) => {
    opened.set(`${link.link} ${record.id}`, isNow);
    setOpened(isNow);
  };
  const links = model.linksTo(record.type);
  const isBeneath = (one: Link) => now.childrenOf(one, record.id).some(({ id }) => inSight?.has(id) === true);
  const isOpen = isOpened ?? (inSight !== null && links.some(isBeneath));
  const [setPlace, fits] = useDropPlace(record);
  const isNew = !stored.has(record.id);
  const wasElsewhere = !isNew && valueAt(stored, record.id).values[link.link] !== record.values[link.link];
  return (
    <>
      <tr
        ref={setPlace}
        className={fits ? familyStyle.dropHere : undefined}
        data-drops={fits || undefined}
        data-new={isNew || wasElsewhere || undefined}
      >
        <th scope="row" title={title}>
          <Handle record={record} link={link} title={title} />
          {links.length > 0 ? (
            <button
              type="button"
              className={clsx('plain', style.treeToggle)}
              aria-expanded={isOpen}
              aria-label={`What hangs under ${title}`}
              onClick={() => setOpen(!isOpen)}
            >
              <RightOutlined rotate={isOpen ? 90 : 0} aria-hidden /> {title}
            </button>
          ) : (
            title
          )}
          {isNew ? <span className={clsx(kitStyle.entered, style.treeMark)}> new</span> : null}
          {wasElsewhere ? <span className={clsx(kitStyle.entered, style.treeMark)}> moved here</span> : null}
        </th>
        {columns.map((field) => (
          <td key={field.key} className={isAmount(field.type.kind) ? 'amount' : undefined}>
            <Cell record={record} field={field} />
          </td>
        ))}
        <td className={familyStyle.treeDelete}>
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
        <tr className={familyStyle.treeNested} data-testid="nested">
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
});

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
        <div className={expressionStyle.partForm}>
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
  const { model, now, columns: columnsOf, family, stored, onAdd, inSight } = useScope();
  const [isOpen, setOpen] = useState(startsOpen);
  const all = now.childrenOf(link, parent.id);
  const children = useMemo(() => (inSight ? all.filter(({ id }) => inSight.has(id)) : all), [all, inSight]);
  const isMany = children.length > MOST_ROWS;
  const shown = useMemo(() => {
    if (!isMany) return children;
    // Of very many new records and those that were moved here come first: so they are in sight.
    const isHere = ({ id }: WireRecord) => stored.get(id)?.values[link.link] === parent.id;
    const come = children.filter((record) => !isHere(record));
    return come.length === 0 ? children : [...come, ...children.filter(isHere)];
  }, [children, isMany, stored, link, parent.id]);
  const rowOf = (record: WireRecord) => (
    <ChildRow key={record.id} record={record} link={link} columns={columns} depth={depth} />
  );
  const isKnown = family.complete.some(
    (entry) => entry.type === link.type && entry.link === link.link && entry.parent === parent.id,
  );
  const columns = columnsOf(link.type, link.link);
  const name = link.field.otherEnd ?? typeIn(model, link.type).plural;
  if (inSight && children.length === 0) return null;
  return (
    <div
      className={style.treeChildren}
      style={{ marginLeft: depth === 0 ? 0 : 26 }}
      role="group"
      aria-label={name}
    >
      <button
        type="button"
        className={clsx('plain', style.treeToggle)}
        aria-expanded={isOpen}
        onClick={() => setOpen(!isOpen)}
      >
        <RightOutlined rotate={isOpen ? 90 : 0} aria-hidden /> {name}{' '}
        <span className="quiet">
          {inSight ? `${writeCount(children.length)} of ` : ''}
          {isKnown ? writeCount(all.length) : `${writeCount(all.length)} here, others outside this family`}
        </span>
      </button>
      <Button
        type="text"
        size="small"
        className={style.treeAdd}
        icon={<PlusOutlined aria-hidden />}
        onClick={() => {
          setOpen(true);
          onAdd(link, parent);
        }}
      >
        Add {article(typeIn(model, link.type).name)} {typeIn(model, link.type).name.toLowerCase()}
      </Button>
      {isOpen && children.length > 0 ? (
        <table
          className={clsx(familyStyle.treeTable, isMany && familyStyle.manyRows)}
          aria-rowcount={children.length}
        >
          {isMany ? <Widths columns={columns} /> : null}
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
          {isMany ? <VirtualRows records={shown} rowOf={rowOf} /> : <tbody>{shown.map(rowOf)}</tbody>}
        </table>
      ) : null}
    </div>
  );
}

/** How wide the columns of very many rows are, in pixels: by what stands in them, not by the rows that are drawn. */
const WIDTHS = { name: 240, amount: 130, other: 160, tools: 76 } as const;

function Widths({ columns }: { columns: readonly Field[] }) {
  return (
    <colgroup>
      <col style={{ width: WIDTHS.name }} />
      {columns.map(({ key, type: { kind } }) => (
        <col key={key} style={{ width: isAmount(kind) ? WIDTHS.amount : WIDTHS.other }} />
      ))}
      <col style={{ width: WIDTHS.tools }} />
    </colgroup>
  );
}

/** Of more rows in one table only those about in sight are drawn: each is much for a browser. */
const MOST_ROWS = 60;
