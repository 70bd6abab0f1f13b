'use client';

import { type Expression, typeCondition } from '@/core/expression';
import { type Model, typeIn } from '@/core/model';
import type { WireRecord } from '@/core/verify';
import type { ModelView, SavedListView } from '@/core/api';
import { Button, Checkbox, Dropdown, Input, Popover, Segmented, Select, Switch } from 'antd';
import { useSearchParams } from 'next/navigation';
import { useEffect, useMemo, useState } from 'react';
import { ButtonLink, useRouter } from '@/ui/kit/navigation';
import { NoTypes } from '@/ui/kit/no-types';
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
import { useWhyNot } from '@/ui/api/may';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { Condition } from '@/ui/expression/condition';
import { MarkedBar, MOST_MARKED, readWholeList } from './list/bulk-edit';
import { FetchRates } from './fetch-rates';
import { useColumns } from './list/use-columns';
import { ListsMenu } from './list/lists-menu';
import { countWords } from './words';
import { RecordTable } from '@/ui/records/list/record-table';
import { clsx } from 'clsx';
import expressionStyle from '@/ui/expression/expression.module.css';
import recordsStyle from './records.module.css';
import style from './records-page.module.css';

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
  if (!shown) return <NoneYet />;
  return <RecordsOfType key={shown} view={model.data} type={shown} />;
}

function NoneYet() {
  return (
    <>
      <header className="place-head">
        <h1>Records</h1>
      </header>
      <div className="place-body">
        <NoTypes />
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
  const whyNot = useWhyNot('edit');
  const whyNotMany = useWhyNot('editMany');
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
          <ButtonLink href={`/records/${type}/import`} whyNot={whyNotMany}>
            Import a file
          </ButtonLink>
        ) : null}
        {recordType ? (
          <ButtonLink href={`/records/${type}/new`} type="primary" whyNot={whyNot}>
            Add {article(recordType.name)} {recordType.name.toLowerCase()}
          </ButtonLink>
        ) : null}
      </header>
      <div className={clsx('place-body', style.recordsBody)}>
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
      <div className={recordsStyle.listBar} role="group" aria-label="This list">
        <span
          className={clsx(expressionStyle.sentence, recordsStyle.listSentence)}
          role="group"
          aria-label="Which records are shown"
        >
          {isBin ? `${recordType.plural} in the bin` : `All ${recordType.plural.toLowerCase()}`}
          <Condition
            {...{ model, type }}
            condition={written}
            onChange={write}
            nameOf={(id) => people.data?.people.find((person) => person.id === id)?.name}
          />
        </span>
        <span className={clsx('quiet', style.listCount)} role="status">
          {first?.count ? `${countWords(first.count)} in all` : ''}
        </span>
        <label className={style.listBin}>
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
        <div className={style.columnChoice}>
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
