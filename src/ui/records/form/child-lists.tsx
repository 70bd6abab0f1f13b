'use client';

import { type Field, type Link as ModelLink, type Model, typeIn } from '@/core/model';
import { writeCount } from '@/core/values';
import type { WireRecord } from '@/core/verify';
import type { ModelView, RecordList } from '@/core/api';
import { Select } from 'antd';
import { useMemo, useState } from 'react';
import { Link } from '@/ui/kit/navigation';
import { useAnyRecords, useRecordPages } from '@/ui/api/queries';
import { useKept } from '@/ui/kit/hooks/use-kept';
import { More } from '@/ui/kit/more';
import { article } from '@/core/article';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { ChildEditor } from './child-editor';
import { hiddenLists } from './sections';
import { Trend } from '@/ui/records/trend/trend';
import { countWords, isAmount, listColumns, wordsFor } from '@/ui/records/words';
import { clsx } from 'clsx';
import formStyle from './form.module.css';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './child-lists.module.css';
import { MayButton } from '@/ui/kit/may-button';

/** What stands on one line, however narrow its column. */
const isDay = ({ type: { kind } }: Field): boolean => kind === 'date' || kind === 'dateTime';

interface ChildRowProps {
  readonly model: Model;
  readonly link: ModelLink;
  readonly record: WireRecord;
  readonly columns: readonly Field[];
  readonly names: Readonly<Record<string, string>>;
  /** How deep it lies under the first of a hierarchy. */
  readonly depth: number;
}

/** A child; of a link to its own type it opens into what hangs under it, with the same columns at every level. */
function ChildRow({ model, link, record, columns, names, depth }: ChildRowProps) {
  const type = typeIn(model, link.type);
  const isTree = link.type === link.parent;
  const [isOpen, setOpen] = useState(false);
  const title = String(record.values[type.title]);
  return (
    <>
      <tr>
        <td style={isTree ? { paddingLeft: 8 + depth * 18 } : undefined}>
          {isTree ? (
            <button
              type="button"
              className={clsx('plain', style.childOpen)}
              aria-expanded={isOpen}
              aria-label={`${isOpen ? 'Close' : 'Open'} what hangs under ${title}`}
              onClick={() => setOpen(!isOpen)}
            >
              {isOpen ? '▾' : '▸'}
            </button>
          ) : null}
          <Link href={`/records/${record.type}/${record.id}`}>{title}</Link>
        </td>
        {columns.map((field) => (
          <td key={field.key} className={clsx(isAmount(field) && 'amount', isDay(field) && style.day)}>
            {wordsFor(field, record.values[field.key], names)}
          </td>
        ))}
      </tr>
      {isOpen ? <Beneath {...{ model, link, columns, depth }} parent={record.id} /> : null}
    </>
  );
}

function Beneath({
  parent,
  depth,
  ...props
}: Pick<ChildRowProps, 'model' | 'link' | 'columns' | 'depth'> & { parent: string }) {
  const { data, error, ...pages } = useChildren(props.link, parent);
  if (error || !data || data.records.length === 0)
    return (
      <tr>
        <td
          colSpan={props.columns.length + 1}
          className="quiet"
          style={{ paddingLeft: 26 + (depth + 1) * 18 }}
        >
          {error ? error.message : data ? 'Nothing hangs under it.' : 'Loading …'}
        </td>
      </tr>
    );
  return (
    <>
      {data.records.map((record) => (
        <ChildRow key={record.id} {...props} record={record} names={data.names} depth={depth + 1} />
      ))}
      {pages.hasNextPage ? (
        <tr>
          <td
            colSpan={props.columns.length + 1}
            className="quiet"
            style={{ paddingLeft: 26 + (depth + 1) * 18 }}
          >
            <More label={`Show more than these ${data.records.length}`} {...pages} />
          </td>
        </tr>
      ) : null}
    </>
  );
}

/** What hangs under a record, a list for each link that names it. */
export function ChildLists({ model, view, record }: { model: Model; view: ModelView; record: WireRecord }) {
  const hidden = hiddenLists(model, record);
  return model
    .linksTo(record.type)
    .filter(({ type, link }) => !hidden.has(`${type}.${link}`))
    .map((link) => (
      <ChildList key={`${link.type}.${link.link}`} {...{ model, view, link }} parent={record.id} />
    ));
}

/** How many are asked for at once. */
const PAGE = 100;

/** What hangs under a record by a link, as far as it was asked for. */
function useChildren(link: ModelLink, parent: string, through: string | null = null) {
  const { data, error, hasNextPage, isFetchingNextPage, fetchNextPage } = useRecordPages(link.type, {
    limit: PAGE,
    ...(through
      ? { beneath: { [link.link]: { through, id: parent } } }
      : { filter: { [link.link]: parent } }),
  });
  const shown = useMemo(() => {
    if (!data) return null;
    const records = data.pages.flatMap((page) => page.records);
    const names = Object.assign({}, ...data.pages.map((page) => page.names)) as RecordList['names'];
    return { records, names, count: data.pages[0]?.count };
  }, [data]);
  return { data: shown, error, hasNextPage, isFetchingNextPage, fetchNextPage };
}

const MOST_COLUMNS = 3;

const isText = (value: unknown): value is string => typeof value === 'string';

/**
 * Links of what a link names to its own type, over which the list may go on down: as far as something hangs there. A link of a type to itself opens
 * level by level instead.
 */
function useHierarchies(model: Model, { type, parent }: ModelLink, record: string): readonly ModelLink[] {
  const selfs = type === parent ? [] : model.linksTo(parent).filter((one) => one.type === parent);
  const isThere = useAnyRecords(
    selfs.map((one) => ({ type: one.type, query: { filter: { [one.link]: record } } })),
  );
  return selfs.filter((_, at) => isThere[at]);
}

interface ChildListProps {
  readonly model: Model;
  readonly view: ModelView;
  readonly link: ModelLink;
  readonly parent: string;
}

function ChildList({ model, view, link, parent }: ChildListProps) {
  const [isEditing, setEditing] = useState(false);
  const [through, keepThrough] = useKept<string | null>(
    `oikon.beneath.${link.type}.${link.link}`,
    null,
    isText,
  );
  const hierarchies = useHierarchies(model, link, parent);
  const over = hierarchies.find((one) => one.link === through) ?? null;
  const { data, error, ...pages } = useChildren(link, parent, over?.link);
  const type = typeIn(model, link.type);
  const isKept = ({ key }: Field) =>
    view.keepers.some((keeper) => keeper.type === link.type && keeper.field === key);
  // In a hierarchy the totals at every level come first.
  const isTree = link.type === link.parent;
  const offered = isTree
    ? [
        ...type.fields.filter(isKept),
        ...type.fields.filter((field) => !isKept(field) && field.key !== type.title),
      ]
    : listColumns(model, link.type, link.link);
  // Of those further down it is told under which they hang.
  const under = over ? [link.field] : [];
  const own = offered.filter(({ type: { kind } }) => kind !== 'link').slice(0, MOST_COLUMNS - under.length);
  const columns = [...under, ...own];
  return (
    <section className="sheet child-list" aria-label={link.field.otherEnd}>
      <div className="sheet-head">
        <h2>{link.field.otherEnd}</h2>
        <span className="quiet">
          {data?.count
            ? pages.hasNextPage
              ? `the first ${writeCount(data.records.length)} of ${countWords(data.count)}`
              : data.records.length
            : ''}
        </span>
        {hierarchies.length > 0 ? (
          <Select
            size="small"
            variant="borderless"
            popupMatchSelectWidth={false}
            aria-label={`Whose ${link.field.otherEnd ?? type.plural} these are`}
            value={over?.link ?? ''}
            options={[
              { value: '', label: 'of it alone' },
              ...hierarchies.map((one) => ({
                value: one.link,
                label: `of it and all ${(one.field.otherEnd ?? typeIn(model, one.type).plural).toLowerCase()} beneath it`,
              })),
            ]}
            onChange={(chosen: string) => keepThrough(chosen === '' ? null : chosen)}
          />
        ) : null}
        {data && data.records.length > 0 && !over ? <Trend {...{ model, link, parent }} /> : null}
        {data && data.records.length > 0 && !isEditing ? (
          <MayButton
            right="edit"
            size="small"
            type="text"
            className={style.childEdit}
            onClick={() => setEditing(true)}
          >
            Edit here
          </MayButton>
        ) : null}
        <Link className={style.childAdd} href={`/records/${link.type}/new?${link.link}=${parent}`}>
          Add {article(type.name)} {type.name.toLowerCase()}
        </Link>
      </div>
      <ProblemNotice error={error} />
      {data && isEditing ? (
        <ChildEditor
          {...{ model, view, link }}
          records={data.records}
          names={data.names}
          onClose={() => setEditing(false)}
        />
      ) : data && data.records.length > 0 ? (
        <div className={formStyle.childRows}>
          <table className={kitStyle.members}>
            <thead>
              <tr>
                <th scope="col">{type.name}</th>
                {columns.map((field) => (
                  <th key={field.key} scope="col" className={isAmount(field) ? 'amount' : undefined}>
                    {field.name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {data.records.map((record) => (
                <ChildRow
                  key={record.id}
                  {...{ model, link, record, columns }}
                  names={data.names}
                  depth={0}
                />
              ))}
            </tbody>
          </table>
          <More label="Show more" {...pages} />
        </div>
      ) : data ? (
        <p className={clsx('quiet', style.childNone)}>None.</p>
      ) : null}
    </section>
  );
}
