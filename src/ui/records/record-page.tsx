'use client';

import { readModel } from '@/core/model';
import type { ModelView, RecordView } from '@/core/verify';
import Link from 'next/link';
import { useMemo, useState } from 'react';
import { useModelView, useRecord } from '../api/queries';
import { Loading } from '../kit/loading';
import { ProblemNotice } from '../kit/problem-notice';
import { ChildLists } from './child-lists';
import { History } from './history';
import { OpenedValue, type ValueAt } from './opened-value';
import { RecordForm } from './record-form';
import './records.css';

/** One record: its fields, what hangs under it, its history; kept values can be opened. */
export function RecordPage({ type, id }: { type: string; id: string }) {
  const model = useModelView();
  const record = useRecord(type, id);
  const problem = model.error ?? record.error;
  if (problem) {
    return (
      <div className="place-body">
        <ProblemNotice error={problem} />
        <p>
          <Link href={`/records/${type}`}>Back to the list</Link>
        </p>
      </div>
    );
  }
  if (!model.data || !record.data) return <Loading what="the record" />;
  return <OneRecord key={id} view={model.data} found={record.data} />;
}

function OneRecord({ view, found }: { view: ModelView; found: RecordView }) {
  const model = useMemo(() => readModel({ types: view.types }), [view.types]);
  const [opened, setOpened] = useState<ValueAt | null>(null);
  const { record } = found;
  const type = model.type(record.type)!;
  const title = String(record.values[type.title]);
  return (
    <>
      <header className="place-head">
        <nav aria-label="Way here">
          <Link href={`/records/${type.key}`}>{type.plural}</Link>
        </nav>
        <h1 title={title}>{title}</h1>
      </header>
      <div className="place-body record-columns">
        <RecordForm
          model={model}
          view={view}
          found={found}
          onOpen={(field) => setOpened({ type: record.type, id: record.id, field })}
        />
        <div className="record-beside">
          <ChildLists model={model} record={record} />
          <History type={record.type} id={record.id} />
        </div>
      </div>
      {opened ? (
        <OpenedValue
          key={`${opened.id} ${opened.field}`}
          at={opened}
          onOpen={setOpened}
          onClose={() => setOpened(null)}
        />
      ) : null}
    </>
  );
}
