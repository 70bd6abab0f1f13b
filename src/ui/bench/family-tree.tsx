'use client';

import type { Link, Model } from '@/core/model';
import type { Rule } from '@/core/rules';
import type { WireValue } from '@/core/values';
import type { FamilyData, WireRecord } from '@/core/verify';
import { DeleteOutlined, RightOutlined } from '@ant-design/icons';
import { Button } from 'antd';
import { createContext, useContext, useState } from 'react';
import { columnsFor } from './columns';
import { EditableCell } from './editable-cell';

/** What every part of the tree needs to know. */
export interface TreeScope {
  readonly model: Model;
  /** The rules that take part, drafts among them. */
  readonly rules: readonly Rule[];
  readonly family: FamilyData;
  readonly stored: ReadonlyMap<string, WireRecord>;
  /** The records as they would stand. */
  readonly records: readonly WireRecord[];
  /** Cells to point at: `type id field`. */
  readonly marked: ReadonlySet<string>;
  readonly problems: ReadonlyMap<string, string>;
  readonly nameOf: (id: string) => string | undefined;
  readonly onEdit: (record: WireRecord, field: string, value: WireValue) => void;
  readonly onDelete: (record: WireRecord) => void;
}

export const cellKey = (type: string, id: string, field: string): string => `${type} ${id} ${field}`;

const Scope = createContext<TreeScope | null>(null);

function useScope(): TreeScope {
  const scope = useContext(Scope);
  if (!scope) throw new Error('A part of the tree stands outside it');
  return scope;
}

/** A family as a tree: the root with its fields, beneath it its children in rows that open in turn. */
export function FamilyTree({ scope }: { scope: TreeScope }) {
  const { model, family, records } = scope;
  const root = records.find(({ id }) => id === family.root.id);
  if (!root) {
    return (
      <div className="nothing">
        <strong>The record at the top is deleted</strong>
        Undo the step to bring it back.
      </div>
    );
  }
  return (
    <Scope value={scope}>
      <Root record={root} />
      {model.linksTo(root.type).map((link) => (
        <Children key={`${link.type}.${link.link}`} parent={root} link={link} depth={0} isOpen />
      ))}
    </Scope>
  );
}

function useTitle(record: WireRecord): string {
  const { model } = useScope();
  return String(record.values[model.type(record.type)!.title] ?? record.id);
}

function Cell({ record, field }: { record: WireRecord; field: ReturnType<typeof columnsFor>[number] }) {
  const scope = useScope();
  const title = useTitle(record);
  const key = cellKey(record.type, record.id, field.key);
  const keeper = scope.rules.find(
    ({ definition }) => definition.type === record.type && definition.target === field.key,
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

function Root({ record }: { record: WireRecord }) {
  const { model, rules } = useScope();
  const title = useTitle(record);
  return (
    <section className="tree-root" aria-label={title}>
      <h2>
        {title} <span className="quiet">{model.type(record.type)!.name}</span>
      </h2>
      <dl>
        {columnsFor(model, rules, record.type, null).map((field) => (
          <div key={field.key}>
            <dt>{field.name}</dt>
            <dd>
              <Cell record={record} field={field} />
            </dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

function Children({
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
  const { model, records, rules, family } = useScope();
  const [isOpen, setOpen] = useState(startsOpen);
  const children = records.filter(
    (record) => record.type === link.type && record.values[link.link] === parent.id,
  );
  const isKnown = family.complete.some(
    (entry) => entry.type === link.type && entry.link === link.link && entry.parent === parent.id,
  );
  const columns = columnsFor(model, rules, link.type, link.link);
  const name = link.field.otherEnd ?? model.type(link.type)!.plural;
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
      {isOpen && children.length > 0 ? (
        <table className="tree-table">
          <thead>
            <tr>
              <th scope="col">{model.type(link.type)!.name}</th>
              {columns.map((field) => (
                <th key={field.key} scope="col" className={isAmount(field.type.kind) ? 'amount' : undefined}>
                  {field.name}
                </th>
              ))}
              <th scope="col">
                <span className="visually-hidden">Delete</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {children.map((record) => (
              <ChildRow key={record.id} record={record} columns={columns} depth={depth} />
            ))}
          </tbody>
        </table>
      ) : null}
    </div>
  );
}

const isAmount = (kind: string) => kind === 'number' || kind === 'money' || kind === 'rating';

function ChildRow({
  record,
  columns,
  depth,
}: {
  record: WireRecord;
  columns: ReturnType<typeof columnsFor>;
  depth: number;
}) {
  const { model, onDelete } = useScope();
  const title = useTitle(record);
  const [isOpen, setOpen] = useState(false);
  const links = model.linksTo(record.type);
  return (
    <>
      <tr>
        <th scope="row">
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
        </th>
        {columns.map((field) => (
          <td key={field.key} className={isAmount(field.type.kind) ? 'amount' : undefined}>
            <Cell record={record} field={field} />
          </td>
        ))}
        <td className="tree-delete">
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
