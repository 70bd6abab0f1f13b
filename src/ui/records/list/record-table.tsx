'use client';

import { firstIn } from '@/core/values';
import { type Field, type Model, typeIn, fieldIn } from '@/core/model';
import type { WireRecord } from '@/core/verify';
import type { ModelView, RecordList } from '@/core/api';
import { Table, type TableColumnsType, Tooltip } from 'antd';
import { type ReactNode, useMemo } from 'react';
import { Link } from '@/ui/kit/navigation';
import { liveKeeper } from '@/ui/kit/live-keeper';
import { useHeight } from '@/ui/kit/hooks/use-height';
import { RollUpGlyph } from '@/ui/theme/glyphs';
import { when } from '@/ui/kit/values/when';
import { isAmount, wordsFor } from '@/ui/records/words';
import { clsx } from 'clsx';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './record-table.module.css';

interface TableProps {
  readonly model: Model;
  readonly view: ModelView;
  readonly type: string;
  readonly isBin: boolean;
  readonly fields: readonly Field[];
  readonly pages: readonly RecordList[];
  readonly isFetching: boolean;
  readonly isNarrowed: boolean;
  readonly marked: readonly WireRecord[];
  readonly onMark: (marked: readonly WireRecord[]) => void;
  /** Key of the field that the list is sorted by, with `-` before it for the other way round. */
  readonly sort: string | null;
  readonly onSort: (sort: string | undefined) => void;
  readonly onEnd: () => void;
}

const HEAD = 42;

const TITLE = 290;

const MARK = 40;

const NEAR = 600;

export function RecordTable(props: TableProps) {
  const { model, view, type, isBin, fields, pages, isFetching, isNarrowed, marked } = props;
  const { sort, onMark, onSort, onEnd } = props;
  const orderOf = (key: string): 'ascend' | 'descend' | null =>
    sort === key ? 'ascend' : sort === `-${key}` ? 'descend' : null;
  const { title, plural } = typeIn(model, type);
  const [box, height] = useHeight();
  const names = useMemo(
    () => Object.assign({}, ...pages.map((page) => page.names)) as Record<string, string>,
    [pages],
  );
  const asOf = useMemo(
    () => Object.assign({}, ...pages.map((page) => page.asOf)) as RecordList['asOf'],
    [pages],
  );
  const records = useMemo(() => pages.flatMap((page) => page.records), [pages]);
  const known = useMemo(
    () => new Map([...marked, ...records].map((record) => [record.id, record])),
    [marked, records],
  );
  const isKept = (field: Field) => liveKeeper(view, type, field.key) !== undefined;
  const columns: TableColumnsType<WireRecord> = [
    {
      ...columnFor(fieldIn(model, type, title), (record) => (
        <Link href={`/records/${type}/${record.id}`}>{String(record.values[title])}</Link>
      )),
      width: TITLE,
      sortOrder: orderOf(title),
    },
    ...fields.map((field) => ({
      ...columnFor(
        field,
        (record) => (
          <Behind field={field} at={asOf[record.id]?.[field.key]}>
            {wordsFor(field, record.values[field.key], names)}
          </Behind>
        ),
        isKept(field),
      ),
      width: widthOf(field),
      sortOrder: orderOf(field.key),
    })),
  ];
  const empty = isNarrowed
    ? `None of these ${plural.toLowerCase()} is like that.`
    : isBin
      ? `No ${plural.toLowerCase()} are in the bin.`
      : `There are no ${plural.toLowerCase()} yet.`;
  const isBehind = fields.some(({ key }) => records.some(({ id }) => asOf[id]?.[key] !== undefined));
  return (
    <>
      <div
        ref={box}
        className={clsx('sheet', style.listTable)}
        onScrollCapture={(event) => {
          const { scrollTop, scrollHeight, clientHeight } = event.target as HTMLElement;
          if (scrollHeight - scrollTop - clientHeight < NEAR) onEnd();
        }}
      >
        {height > HEAD ? (
          <Table<WireRecord>
            virtual
            size="small"
            rowKey="id"
            columns={columns}
            dataSource={records}
            pagination={false}
            {...(isBin
              ? {}
              : {
                  rowSelection: {
                    selectedRowKeys: marked.map(({ id }) => id),
                    preserveSelectedRowKeys: true,
                    columnWidth: MARK,
                    onChange: (keys) => onMark(keys.flatMap((key) => known.get(String(key)) ?? [])),
                    getCheckboxProps: (record) => ({ 'aria-label': `Mark ${String(record.values[title])}` }),
                    getTitleCheckboxProps: () => ({ 'aria-label': 'Mark all that are shown' }),
                  },
                })}
            scroll={{
              x: fields.reduce((sum, field) => sum + widthOf(field), TITLE + (isBin ? 0 : MARK)),
              y: height - HEAD,
            }}
            loading={isFetching && records.length === 0}
            locale={{ emptyText: empty }}
            onChange={(_page, _filters, sorter) => {
              const { columnKey, order } = Array.isArray(sorter) ? firstIn(sorter) : sorter;
              onSort(order ? `${order === 'descend' ? '-' : ''}${String(columnKey)}` : undefined);
            }}
          />
        ) : null}
      </div>
      {isBehind ? (
        <p className={style.legend}>
          <span className={style.behind}>Dotted</span> values are of an earlier moment: something in them has
          changed since, and their rule brings them up to date at its own pace.
        </p>
      ) : null}
    </>
  );
}

/** A value; where it waits for its rule's pace, with the moment that it is of. */
function Behind({ field, at, children }: { field: Field; at: string | undefined; children: ReactNode }) {
  if (at === undefined) return children;
  const words = `${field.name} as of ${when(at)}`;
  return (
    <Tooltip title={words}>
      <span className={style.behind}>
        {children} <span className="visually-hidden">{words}</span>
      </span>
    </Tooltip>
  );
}

const WIDTHS: Partial<Record<Field['type']['kind'], number>> = {
  ...{ link: 172, longText: 240, text: 180, choices: 160, money: 140, number: 120 },
  ...{ yesNo: 90, choice: 110, date: 120, rating: 110 },
};

const widthOf = (field: Field): number => WIDTHS[field.type.kind] ?? 140;

type Column = TableColumnsType<WireRecord>[number];

const UNSORTED = new Set(['link', 'person', 'choices', 'anyMoney']);

function columnFor(field: Field, render: (record: WireRecord) => ReactNode, isKept = false): Column {
  return {
    key: field.key,
    title: isKept ? (
      <span className={style.keptColumn}>
        <RollUpGlyph size={14} label="Kept by a rule" /> {field.name}
      </span>
    ) : (
      field.name
    ),
    sorter: !UNSORTED.has(field.type.kind),
    showSorterTooltip: false,
    ellipsis: true,
    align: isAmount(field) ? 'right' : 'left',
    className: isAmount(field) ? 'amount' : '',
    render: (_, record) =>
      record.errors[field.key] ? <span className={kitStyle.problemWord}>problem</span> : render(record),
  };
}
