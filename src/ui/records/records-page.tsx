'use client';

import { type Field, type Model, readModel } from '@/core/model';
import type { ModelView, RecordList, WireRecord } from '@/core/verify';
import { Input, Segmented, Table, type TableColumnsType } from 'antd';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useMemo, useState } from 'react';
import { useModelView, useRecords } from '../api/queries';
import { Loading } from '../kit/loading';
import { ProblemNotice } from '../kit/problem-notice';
import { RollUpGlyph } from '../theme/glyphs';
import './records.css';
import { isAmount, listColumns, wordsFor } from './words';

const FIRST = 'exhibition';
const PAGE = 50;

/** The records of a type, searched, sorted and paged. */
export function RecordsPage({ type }: { type: string | null }) {
  const model = useModelView();
  const shown =
    type ?? model.data?.types.find(({ key }) => key === FIRST)?.key ?? model.data?.types[0]?.key ?? null;
  if (model.error) return <ProblemNotice error={model.error} />;
  if (!model.data || !shown) return <Loading what="the records" />;
  return <RecordsOfType key={shown} view={model.data} type={shown} />;
}

function RecordsOfType({ view, type }: { view: ModelView; type: string }) {
  const router = useRouter();
  const model = useMemo(() => readModel({ types: view.types }), [view.types]);
  const [search, setSearch] = useState('');
  const [sort, setSort] = useState<string | undefined>();
  const [page, setPage] = useState(1);
  const { data, error, isFetching } = useRecords(type, {
    search,
    limit: PAGE,
    offset: (page - 1) * PAGE,
    ...(sort ? { sort } : {}),
  });
  const recordType = model.type(type);
  return (
    <>
      <header className="place-head">
        <h1>Records</h1>
        <Segmented
          aria-label="Type of record"
          value={type}
          options={view.types.map(({ key, plural }) => ({ value: key, label: plural }))}
          onChange={(key) => router.push(`/records/${key}`)}
        />
        <Input.Search
          allowClear
          aria-label="Search in titles"
          placeholder={recordType ? `Search ${recordType.plural.toLowerCase()}` : 'Search'}
          onChange={(event) => {
            setSearch(event.target.value);
            setPage(1);
          }}
          style={{ width: 260, marginLeft: 'auto' }}
        />
      </header>
      <div className="place-body">
        <ProblemNotice error={error} />
        {data && recordType ? (
          <div className="sheet">
            <RecordTable
              {...{ model, view, type, data, page, isFetching }}
              onPage={setPage}
              onSort={setSort}
              isSearched={search !== ''}
            />
          </div>
        ) : error ? null : (
          <Loading what="the records" />
        )}
      </div>
    </>
  );
}

interface TableProps {
  readonly model: Model;
  readonly view: ModelView;
  readonly type: string;
  readonly data: RecordList;
  readonly page: number;
  readonly isFetching: boolean;
  readonly isSearched: boolean;
  readonly onPage: (page: number) => void;
  readonly onSort: (sort: string | undefined) => void;
}

function RecordTable({ model, view, type, data, page, isFetching, isSearched, onPage, onSort }: TableProps) {
  const { title, plural } = model.type(type)!;
  const columns: TableColumnsType<WireRecord> = [
    columnFor(model.field(type, title)!, (record) => (
      <Link href={`/records/${type}/${record.id}`}>{String(record.values[title])}</Link>
    )),
    ...listColumns(model, type).map((field) =>
      columnFor(
        field,
        (record) => wordsFor(field, record.values[field.key], data.names),
        view.keepers.some(
          (keeper) => keeper.type === type && keeper.field === field.key && keeper.rule.state === 'live',
        ),
      ),
    ),
  ];
  return (
    <Table<WireRecord>
      size="small"
      rowKey="id"
      columns={columns}
      dataSource={[...data.records]}
      loading={isFetching && data.records.length === 0}
      locale={{
        emptyText: isSearched
          ? `No title of these ${plural.toLowerCase()} has that in it.`
          : `There are no ${plural.toLowerCase()} yet.`,
      }}
      pagination={{
        current: page,
        pageSize: PAGE,
        total: data.total,
        showSizeChanger: false,
        hideOnSinglePage: false,
        showTotal: (total) => `${total.toLocaleString('en-GB')} in all`,
      }}
      onChange={(pagination, _filters, sorter) => {
        onPage(pagination.current ?? 1);
        const { columnKey, order } = Array.isArray(sorter) ? sorter[0]! : sorter;
        onSort(order ? `${order === 'descend' ? '-' : ''}${String(columnKey)}` : undefined);
      }}
    />
  );
}

type Column = TableColumnsType<WireRecord>[number];

function columnFor(field: Field, render: (record: WireRecord) => React.ReactNode, isKept = false): Column {
  return {
    key: field.key,
    title: isKept ? (
      <span className="kept-column">
        <RollUpGlyph size={14} label="Kept by a rule" /> {field.name}
      </span>
    ) : (
      field.name
    ),
    sorter: field.type.kind !== 'link' && field.type.kind !== 'person',
    showSorterTooltip: false,
    align: isAmount(field) ? 'right' : 'left',
    className: isAmount(field) ? 'amount' : '',
    render: (_, record) =>
      record.errors[field.key] ? <span className="problem-word">problem</span> : render(record),
  };
}
