'use client';

import { type Expression, typeCondition } from '@/core/expression';
import { type Field, type Model, typeIn, fieldIn } from '@/core/model';
import type { WireRecord } from '@/core/verify';
import type { ModelView, RecordList, SavedListView } from '@/core/api';
import {
  Button,
  Checkbox,
  Dropdown,
  Input,
  Popover,
  Segmented,
  Select,
  Switch,
  Table,
  type TableColumnsType,
} from 'antd';
import { useSearchParams } from 'next/navigation';
import { useEffect, useMemo, useState } from 'react';
import { Link, useRouter } from '@/ui/kit/navigation';
import {
  exportPath,
  listPath,
  modelOf,
  useLists,
  useModelView,
  usePeople,
  useRecordPages,
} from '@/ui/api/queries';
import { article } from '@/core/article';
import { download } from '@/ui/kit/download';
import { Loading } from '@/ui/kit/loading';
import { liveKeeper } from '@/ui/kit/live-keeper';
import { ProblemNotice } from '@/ui/kit/problem-notice';
import { useHeight } from '@/ui/kit/use-height';
import { Condition } from '@/ui/expression/condition';
import { RollUpGlyph } from '@/ui/theme/glyphs';
import './records.css';
import { MarkedBar, MOST_MARKED, readWholeList } from './list/bulk-edit';
import { FetchRates } from './fetch-rates';
import { useColumns } from './list/use-columns';
import { ListsMenu } from './list/lists-menu';
import { countWords, isAmount, wordsFor } from './words';

const PAGE = 100;

/** Where this browser keeps which type it looked at last. */
const LAST = 'oikon.type';

/** The records of a type: searched, filtered by a condition, sorted, and read on as they are scrolled. */
export function RecordsPage({ type }: { type: string | null }) {
  const model = useModelView();
  const [last] = useState(() => (typeof localStorage === 'undefined' ? null : localStorage.getItem(LAST)));
  useEffect(() => {
    if (type) localStorage.setItem(LAST, type);
  }, [type]);
  const known = model.data?.types.find(({ key }) => key === last) ?? model.data?.types[0];
  const shown = type ?? known?.key ?? null;
  if (model.error) return <ProblemNotice error={model.error} />;
  if (!model.data) return <Loading what="the records" />;
  if (!shown) return <NoTypes />;
  return <RecordsOfType key={shown} view={model.data} type={shown} />;
}

function NoTypes() {
  return (
    <>
      <header className="place-head">
        <h1>Records</h1>
      </header>
      <div className="place-body">
        <div className="sheet nothing">
          <strong>There is no type of record yet</strong>
          Add one on the <Link href="/model">Model</Link>, by hand or from a CSV file; its records are listed
          here.
        </div>
      </div>
    </>
  );
}

/** More types than this are chosen from a list. */
const MOST_BESIDE = 7;

function RecordsOfType({ view, type }: { view: ModelView; type: string }) {
  const router = useRouter();
  const model = useMemo(() => modelOf(view), [view]);
  const [search, setSearch] = useState('');
  const recordType = model.type(type);
  const lists = useLists();
  const wanted = useSearchParams().get('list');
  const list =
    lists.data?.lists.find(
      ({ id, definition }) => id === wanted && definition.kind === 'list' && definition.type === type,
    ) ?? null;
  return (
    <>
      <header className="place-head">
        <h1>Records</h1>
        {view.types.length > MOST_BESIDE ? (
          <Select
            aria-label="Type of record"
            value={type}
            options={view.types.map(({ key, plural }) => ({ value: key, label: plural }))}
            showSearch={{ optionFilterProp: 'label' }}
            onChange={(key: string) => router.push(`/records/${key}`)}
            style={{ width: 240 }}
          />
        ) : (
          <Segmented
            aria-label="Type of record"
            value={type}
            options={view.types.map(({ key, plural }) => ({ value: key, label: plural }))}
            onChange={(key) => router.push(`/records/${key}`)}
          />
        )}
        <Input.Search
          allowClear
          aria-label="Search in titles"
          placeholder={recordType ? `Search ${recordType.plural.toLowerCase()}` : 'Search'}
          onChange={(event) => setSearch(event.target.value)}
          style={{ width: 220, marginLeft: 'auto' }}
        />
        {recordType?.rates ? <FetchRates /> : null}
        {recordType ? (
          <Link href={`/records/${type}/import`}>
            <Button>Import a file</Button>
          </Link>
        ) : null}
        {recordType ? (
          <Link href={`/records/${type}/new`}>
            <Button type="primary">
              Add {article(recordType.name)} {recordType.name.toLowerCase()}
            </Button>
          </Link>
        ) : null}
      </header>
      <div className="place-body records-body">
        <ProblemNotice error={lists.error} />
        {lists.data ? (
          <List key={list?.id ?? 'all'} {...{ model, view, type, search, list }} lists={lists.data.lists} />
        ) : lists.error ? null : (
          <Loading what="the records" />
        )}
      </div>
    </>
  );
}

interface ListProps {
  readonly model: Model;
  readonly view: ModelView;
  readonly type: string;
  readonly search: string;
  readonly lists: readonly SavedListView[];
  /** The kept list that is open; `null` for all records. */
  readonly list: SavedListView | null;
}

function List({ model, view, type, search, lists, list }: ListProps) {
  const kept = list?.definition.kind === 'list' ? list.definition : null;
  const people = usePeople();
  const [sort, setSort] = useState<string | undefined>(kept?.sort ?? undefined);
  const [isBin, setBin] = useState(false);
  const [marked, setMarked] = useState<readonly WireRecord[]>([]);
  const [written, setWritten] = useState<Expression | null>(kept?.condition ?? null);
  const [condition, setCondition] = useState<Expression | null>(kept?.condition ?? null);
  const columns = useColumns(model, type, kept?.columns ?? null);
  const recordType = model.type(type);
  const { data, error, isFetching, hasNextPage, fetchNextPage } = useRecordPages(type, {
    ...{ search, limit: PAGE, condition, isBin },
    ...(sort ? { sort } : {}),
  });
  if (!recordType) return <ProblemNotice error={error} />;
  const write = (next: Expression | null) => {
    setWritten(next);
    // A test that is still being written doesn't change the list.
    if (next === null || typeCondition(model, type, next).ok) setCondition(next);
  };
  const first = data?.pages[0];
  const query = { search, condition, isBin, ...(sort ? { sort } : {}) };
  const all = first?.count?.isExact && first.count.number <= MOST_MARKED ? first.count.number : null;
  return (
    <>
      <div className="list-bar">
        <span className="sentence list-sentence" aria-label="Which records are shown">
          {isBin ? `${recordType.plural} in the bin` : `All ${recordType.plural.toLowerCase()}`}
          <Condition
            {...{ model, type }}
            condition={written}
            onChange={write}
            nameOf={(id) => people.data?.people.find((person) => person.id === id)?.name}
          />
        </span>
        <span className="quiet list-count" role="status">
          {first?.count ? `${countWords(first.count)} in all` : ''}
        </span>
        <label className="list-bin">
          <Switch size="small" checked={isBin} onChange={setBin} aria-label="Show the bin" /> Bin
        </label>
        <ListsMenu
          {...{ model, view, type, lists, list }}
          shown={
            written === condition
              ? {
                  kind: 'list',
                  type,
                  columns: columns.chosen.map(({ key }) => key),
                  sort: sort ?? null,
                  condition,
                }
              : null
          }
          onCondition={write}
        />
        <ColumnChoice {...{ model, type, columns }} />
        <ListExport
          path={exportPath(type, query)}
          fields={[recordType.title, ...columns.chosen.map(({ key }) => key)]}
        />
      </div>
      <ProblemNotice error={error} />
      {isBin ? null : (
        <MarkedBar
          {...{ model, view, type, marked, all }}
          list={{ search, condition }}
          readAll={() => readWholeList((after) => listPath(type, { ...query, limit: 500 }, after))}
          onMark={setMarked}
        />
      )}
      {data ? (
        <RecordTable
          {...{ model, view, type, isBin, marked }}
          onMark={setMarked}
          fields={columns.chosen}
          pages={data.pages}
          isFetching={isFetching}
          isNarrowed={search !== '' || condition !== null}
          sort={sort ?? null}
          onSort={setSort}
          onEnd={() => {
            if (hasNextPage && !isFetching) void fetchNextPage();
          }}
        />
      ) : error ? null : (
        <Loading what="the records" />
      )}
    </>
  );
}

function ColumnChoice({
  model,
  type,
  columns,
}: {
  model: Model;
  type: string;
  columns: ReturnType<typeof useColumns>;
}) {
  const { fields, title } = typeIn(model, type);
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      content={
        <div className="column-choice">
          <Checkbox.Group
            value={columns.chosen.map(({ key }) => key)}
            options={fields
              .filter(({ key }) => key !== title)
              .map(({ key, name }) => ({ value: key, label: name }))}
            onChange={(keys) => columns.choose(keys)}
          />
          <Button size="small" onClick={columns.reset}>
            As to begin with
          </Button>
        </div>
      }
    >
      <Button size="small">Columns</Button>
    </Popover>
  );
}

/** The list as it is narrowed and sorted, as a file: its columns, or every field. */
function ListExport({ path, fields }: { path: string; fields: readonly string[] }) {
  const items = [
    { key: `${path}&format=csv&fields=${fields.join(',')}`, label: 'These columns as CSV' },
    { key: `${path}&format=xlsx&fields=${fields.join(',')}`, label: 'These columns as XLSX' },
    { key: `${path}&format=csv`, label: 'Every field as CSV' },
    { key: `${path}&format=xlsx`, label: 'Every field as XLSX' },
    { key: `${path}&format=jsonl`, label: 'Every field as JSON Lines' },
  ];
  return (
    <Dropdown trigger={['click']} menu={{ items, onClick: ({ key }) => download(key) }}>
      <Button size="small">Export</Button>
    </Dropdown>
  );
}

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

function RecordTable(props: TableProps) {
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
      ...columnFor(field, (record) => wordsFor(field, record.values[field.key], names), isKept(field)),
      width: widthOf(field),
      sortOrder: orderOf(field.key),
    })),
  ];
  const empty = isNarrowed
    ? `None of these ${plural.toLowerCase()} is like that.`
    : isBin
      ? `No ${plural.toLowerCase()} are in the bin.`
      : `There are no ${plural.toLowerCase()} yet.`;
  return (
    <div
      ref={box}
      className="sheet list-table"
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
            const { columnKey, order } = Array.isArray(sorter) ? sorter[0]! : sorter;
            onSort(order ? `${order === 'descend' ? '-' : ''}${String(columnKey)}` : undefined);
          }}
        />
      ) : null}
    </div>
  );
}

const WIDTHS: Partial<Record<Field['type']['kind'], number>> = {
  ...{ link: 172, longText: 240, text: 180, choices: 160, money: 140, number: 120 },
  ...{ yesNo: 90, choice: 110, date: 120, rating: 110 },
};

const widthOf = (field: Field): number => WIDTHS[field.type.kind] ?? 140;

type Column = TableColumnsType<WireRecord>[number];

const UNSORTED = new Set(['link', 'person', 'choices', 'anyMoney']);

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
    sorter: !UNSORTED.has(field.type.kind),
    showSorterTooltip: false,
    ellipsis: true,
    align: isAmount(field) ? 'right' : 'left',
    className: isAmount(field) ? 'amount' : '',
    render: (_, record) =>
      record.errors[field.key] ? <span className="problem-word">problem</span> : render(record),
  };
}
