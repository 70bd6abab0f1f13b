'use client';

import { itemAt, foundIn } from '@/core/values';
import type { Expression } from '@/core/expression';
import { type Field, type Model, selectionIn, typeIn } from '@/core/model';
import type { WireRecord } from '@/core/verify';
import type { ModelView, RecordList, SavedListView } from '@/core/api';
import { useInfiniteQuery } from '@tanstack/react-query';
import { MayButton } from '@/ui/kit/may-button';
import { useMemo, useState } from 'react';
import { callApi } from '@/ui/api/client';
import { listPath, modelOf, useLists, useModelView } from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { More } from '@/ui/kit/more';
import { Link } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { RemoveListDialog } from './list/lists-menu';
import { countWords, isAmount, wordsFor } from './words';
import { clsx } from 'clsx';
import style from './joined-page.module.css';

/** A kept list that joins selections: their records, of whatever type, one selection after the other. */
export function JoinedPage({ id }: { id: string }) {
  const view = useModelView();
  const lists = useLists();
  const error = view.error ?? lists.error;
  if (error) return <ProblemNotice error={error} />;
  if (!view.data || !lists.data) return <Loading what="the list" />;
  const list = lists.data.lists.find((one) => one.id === id);
  if (list?.definition.kind !== 'joined')
    return (
      <div className="place-body">
        <p className="finding">There is no such list. It may have been removed.</p>
        <Link href="/records">Back to the records</Link>
      </div>
    );
  return <Joined key={id} view={view.data} list={list} selections={list.definition.selections} />;
}

interface Page {
  readonly selection: string;
  readonly list: RecordList;
}

const PAGE = 100;

/** Pages of one selection, then of the next. */
function useJoined(model: Model, selections: readonly string[]) {
  return useInfiniteQuery({
    queryKey: ['records', 'joined', selections],
    queryFn: async ({ pageParam: { at, after } }): Promise<Page & { at: number }> => {
      const selection = itemAt(selections, at);
      const condition: Expression = { kind: 'selection', operator: 'isIn', route: [], selection };
      const { type } = selectionIn(model, selection);
      return {
        at,
        selection,
        list: await callApi<RecordList>(listPath(type, { condition, limit: PAGE }, after)),
      };
    },
    initialPageParam: { at: 0, after: null as string | null },
    getNextPageParam: ({ at, list }) =>
      list.next !== null
        ? { at, after: list.next }
        : at + 1 < selections.length
          ? { at: at + 1, after: null }
          : null,
  });
}

/** Fields beside the title that every one of the types has, by name and kind. */
function commonFields(model: Model, types: readonly string[]): Field[] {
  const [first, ...others] = types.map((type) => typeIn(model, type));
  if (!first) return [];
  const isAlike = (field: Field) =>
    others.every((type) =>
      type.fields.some((one) => one.name === field.name && one.type.kind === field.type.kind),
    );
  return first.fields.filter((field) => field.key !== first.title && isAlike(field));
}

const MOST_COLUMNS = 8;

function Joined({
  view,
  list,
  selections: wanted,
}: {
  view: ModelView;
  list: SavedListView;
  selections: readonly string[];
}) {
  const model = useMemo(() => modelOf(view), [view]);
  const selections = useMemo(() => wanted.filter((key) => model.selection(key)), [model, wanted]);
  const { data, error, hasNextPage, isFetchingNextPage, fetchNextPage } = useJoined(model, selections);
  const [isRemoving, setRemoving] = useState(false);
  const types = [...new Set(selections.map((key) => selectionIn(model, key).type))];
  const fields = commonFields(model, types).slice(0, MOST_COLUMNS);
  const pages = data?.pages ?? [];
  return (
    <>
      <header className="place-head">
        <h1>{list.name}</h1>
        <span className="place-lead">
          {selections
            .map((key) => {
              const count = pages.find((page) => page.selection === key && page.list.count)?.list.count;
              const { name, type } = selectionIn(model, key);
              return `${name} (${count ? `${countWords(count)} ` : ''}${typeIn(model, type).plural.toLowerCase()})`;
            })
            .join(' and ')}
        </span>
        <div className="place-actions">
          <Link href="/records">All records</Link>
          <MayButton right="edit" onClick={() => setRemoving(true)}>
            Remove the list …
          </MayButton>
        </div>
      </header>
      <div className="place-body">
        <ProblemNotice error={error} />
        {data ? (
          <div className={clsx('sheet', style.joinedList)}>
            <table>
              <thead>
                <tr>
                  <th scope="col">Record</th>
                  <th scope="col">Type</th>
                  {fields.map((field) => (
                    <th scope="col" key={field.key} className={isAmount(field) ? 'amount' : ''}>
                      {field.name}
                    </th>
                  ))}
                  <th scope="col">Selection</th>
                </tr>
              </thead>
              <tbody>
                {pages.flatMap(({ selection, list: { records, names } }) =>
                  records.map((record) => (
                    <JoinedRow
                      key={`${selection} ${record.id}`}
                      {...{ model, selection, record, names, fields }}
                    />
                  )),
                )}
              </tbody>
            </table>
            {pages.every((page) => page.list.records.length === 0) && !hasNextPage ? (
              <p className="nothing">No record is in any of these selections.</p>
            ) : null}
            <More label="Show more records" {...{ hasNextPage, isFetchingNextPage, fetchNextPage }} />
          </div>
        ) : error ? null : (
          <Loading what="the records" />
        )}
      </div>
      {isRemoving ? (
        <RemoveListDialog list={list} back="/records" onClose={() => setRemoving(false)} />
      ) : null}
    </>
  );
}

interface JoinedRowProps {
  readonly model: Model;
  readonly selection: string;
  readonly record: WireRecord;
  readonly names: Readonly<Record<string, string>>;
  readonly fields: readonly Field[];
}

function JoinedRow({ model, selection, record, names, fields }: JoinedRowProps) {
  const type = typeIn(model, record.type);
  return (
    <tr>
      <td>
        <Link href={`/records/${record.type}/${record.id}`}>{String(record.values[type.title])}</Link>
      </td>
      <td>{type.name}</td>
      {fields.map(({ name, type: { kind } }) => {
        const field = foundIn(type.fields, (one) => one.name === name && one.type.kind === kind);
        return (
          <td key={name} className={isAmount(field) ? 'amount' : ''}>
            {wordsFor(field, record.values[field.key], names)}
          </td>
        );
      })}
      <td className="quiet">{selectionIn(model, selection).name}</td>
    </tr>
  );
}
