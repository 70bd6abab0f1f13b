'use client';

import type { Link as ModelLink, Model } from '@/core/model';
import type { WireRecord } from '@/core/verify';
import { Link } from '../kit/navigation';
import { useRecords } from '../api/queries';
import { article } from '../kit/article';
import { ProblemNotice } from '../kit/problem-notice';
import { countWords, isAmount, listColumns, wordsFor } from './words';

/** What hangs under a record, a list for each link that names it. */
export function ChildLists({ model, record }: { model: Model; record: WireRecord }) {
  return model
    .linksTo(record.type)
    .map((link) => (
      <ChildList key={`${link.type}.${link.link}`} model={model} link={link} parent={record.id} />
    ));
}

const MOST_SHOWN = 100;
const MOST_COLUMNS = 3;

function ChildList({ model, link, parent }: { model: Model; link: ModelLink; parent: string }) {
  const { data, error } = useRecords(link.type, { filter: { [link.link]: parent }, limit: MOST_SHOWN });
  const type = model.type(link.type)!;
  const columns = listColumns(model, link.type, link.link)
    .filter(({ type: { kind } }) => kind !== 'link')
    .slice(0, MOST_COLUMNS);
  return (
    <section className="sheet child-list" aria-label={link.field.otherEnd}>
      <div className="sheet-head">
        <h2>{link.field.otherEnd}</h2>
        <span className="quiet">
          {data?.count
            ? data.next
              ? `the first ${MOST_SHOWN} of ${countWords(data.count)}`
              : data.records.length
            : ''}
        </span>
        <Link className="child-add" href={`/records/${link.type}/new?${link.link}=${parent}`}>
          Add {article(type.name)} {type.name.toLowerCase()}
        </Link>
      </div>
      <ProblemNotice error={error} />
      {data && data.records.length > 0 ? (
        <div className="child-rows">
          <table className="members">
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
                <tr key={record.id}>
                  <td>
                    <Link href={`/records/${record.type}/${record.id}`}>
                      {String(record.values[type.title])}
                    </Link>
                  </td>
                  {columns.map((field) => (
                    <td key={field.key} className={isAmount(field) ? 'amount' : undefined}>
                      {wordsFor(field, record.values[field.key], data.names)}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ) : data ? (
        <p className="quiet child-none">None.</p>
      ) : null}
    </section>
  );
}
