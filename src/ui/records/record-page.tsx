'use client';

import { firstIn } from '@/core/values';
import { type Model, typeIn } from '@/core/model';
import type { ModelView, RecordView } from '@/core/api';
import { article } from '@/core/article';
import { useIsFetching } from '@tanstack/react-query';
import { Button, Tooltip } from 'antd';
import { useEffect, useMemo, useRef, useState } from 'react';
import { ButtonLink, Link, useRouter } from '@/ui/kit/navigation';
import { modelOf, useInvalidate, useModelView, useRecord } from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { when } from '@/ui/kit/values/when';
import { KindGlyph } from '@/ui/theme/glyphs';
import { BinDialog } from './bin-dialog';
import { ChildLists } from './form/child-lists';
import { Followers } from './form/dependants';
import { History } from './history';
import { OpenedValue, type ValueAt } from './opened-value';
import { RecordForm } from './form/record-form';
import { wordsFor } from './words';
import { clsx } from 'clsx';
import style from './record-page.module.css';
import { useSeesPart } from '@/ui/api/may';
import { MayButton } from '@/ui/kit/may-button';

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
  return (
    <OneRecord key={`${id} ${String(record.data.record.deleted)}`} view={model.data} found={record.data} />
  );
}

function OneRecord({ view, found }: { view: ModelView; found: RecordView }) {
  const model = useMemo(() => modelOf(view), [view]);
  const [way, setWay] = useState<readonly ValueAt[]>([]);
  const [binning, setBinning] = useState<'delete' | 'restore' | null>(null);
  const router = useRouter();
  const { record, asOf } = found;
  useInvalidateWhenBrought(Object.keys(asOf).length);
  const type = typeIn(model, record.type);
  const title = String(record.values[type.title]);
  const opened = way.at(-1);
  const isBesideThere = useBesideThere();
  const seesPart = useSeesPart();
  return (
    <>
      <header className="place-head">
        <nav aria-label="Way here">
          <Link href={`/records/${type.key}`}>{type.plural}</Link>
          <Path path={found.path} />
        </nav>
        <h1 title={title}>{title}</h1>
        <div className="place-actions">
          {record.deleted ? (
            <MayButton right="edit" type="primary" onClick={() => setBinning('restore')}>
              Restore …
            </MayButton>
          ) : (
            <>
              <Makers found={found} />
              {seesPart ? null : (
                <ButtonLink href={`/bench?type=${record.type}&id=${record.id}`}>Try on the bench</ButtonLink>
              )}
              <MayButton right="edit" type="text" danger onClick={() => setBinning('delete')}>
                Delete …
              </MayButton>
            </>
          )}
        </div>
      </header>
      <div className={clsx('place-body', style.recordColumns)}>
        {record.deleted ? (
          <InBin model={model} found={found} />
        ) : (
          <RecordForm
            model={model}
            view={view}
            found={found}
            onOpen={(field) => setWay([{ type: record.type, id: record.id, field }])}
          />
        )}
        <div className={clsx(style.recordBeside, !isBesideThere && style.coming)}>
          <MadeBy found={found} />
          {record.deleted ? null : <ChildLists {...{ model, view, record }} />}
          {record.deleted ? null : <Followers type={record.type} id={record.id} />}
          <History type={record.type} id={record.id} />
        </div>
      </div>
      {opened ? (
        <OpenedValue
          key={`${opened.id} ${opened.field}`}
          at={opened}
          way={way.slice(0, -1)}
          onOpen={(at) => setWay([...way, at])}
          onBack={() => setWay(way.slice(0, -1))}
          onClose={() => setWay([])}
        />
      ) : null}
      {binning ? (
        <BinDialog
          records={[record]}
          title={`“${title}”`}
          kind={binning}
          onClose={() => setBinning(null)}
          onDone={() => {
            setBinning(null);
            if (binning === 'delete') router.push(`/records/${type.key}`);
          }}
        />
      ) : null}
    </>
  );
}

/** Buttons by which a person has a rule make a record for this one: the filled form comes first. */
function Makers({ found: { makers, record } }: { found: RecordView }) {
  return makers.map(({ rule, makes, makesName, meets, isOnce, made }) => {
    const [one] = made;
    if (isOnce && one)
      return (
        <Link key={rule.id} href={`/records/${one.type}/${one.id}`}>
          <Button>Open the {makesName}</Button>
        </Link>
      );
    const button = (
      <MayButton right="edit" key={rule.id} disabled={!meets}>
        Make {article(makesName)} {makesName} …
      </MayButton>
    );
    return meets ? (
      <Link key={rule.id} href={`/records/${makes}/new?rule=${rule.id}&source=${record.id}`}>
        {button}
      </Link>
    ) : (
      <Tooltip key={rule.id} title={`This record doesn’t meet the condition of “${rule.name}”.`}>
        {button}
      </Tooltip>
    );
  });
}

/** By which rule the record was made, and for which other. */
function MadeBy({ found: { madeBy } }: { found: RecordView }) {
  if (madeBy.length === 0) return null;
  return (
    <section className={clsx('sheet', style.madeBy)} aria-label="Where it comes from">
      {madeBy.map(({ rule, source }) => (
        <p key={rule.id}>
          <KindGlyph kind={rule.kind} size={16} /> Made for{' '}
          <Link href={`/records/${source.type}/${source.id}`}>{source.title}</Link> by “
          <Link href={`/rules/${rule.id}`}>{rule.name}</Link>”.
        </p>
      ))}
    </section>
  );
}

/** Whether all that stands beside the fields has come: lists that came one by one would push each other down. */
const useBesideThere = (): boolean =>
  useIsFetching({
    predicate: ({ queryKey, state }) =>
      state.data === undefined && BESIDE.has(String(queryKey[2])) && queryKey[0] === 'records',
  }) === 0;

/** What its queries are called. */
const BESIDE: ReadonlySet<string> = new Set(['pages', 'history', 'followers']);

/** Once a value that waited is brought up to date, the history and what hangs under the record are looked at again. */
function useInvalidateWhenBrought(waiting: number): void {
  const { records } = useInvalidate();
  const before = useRef(waiting);
  useEffect(() => {
    if (waiting < before.current) void records();
    before.current = waiting;
  });
}

/** Of a long way only its ends are shown. */
const MOST_AT_END = 2;

/** What the record hangs under, the topmost first. */
function Path({ path }: { path: RecordView['path'] }) {
  const isLong = path.length > MOST_AT_END + 2;
  const shown = isLong ? [firstIn(path), ...path.slice(-MOST_AT_END)] : path;
  return shown.map(({ type, id, title }, at) => (
    <span key={id}>
      <span className="quiet"> › {isLong && at === 1 ? '… › ' : ''}</span>
      <Link href={`/records/${type}/${id}`}>{title}</Link>
    </span>
  ));
}

/** A record in the bin: its values as they were, and who put it there. */
function InBin({ model, found }: { model: Model; found: RecordView }) {
  const { record, names, deletion } = found;
  return (
    <section className="sheet" aria-label="In the bin">
      <div className="sheet-head">
        <h2>In the bin</h2>
      </div>
      {deletion ? (
        <p className={style.inBin}>
          {deletion.person ?? 'Oikon'} deleted it on{' '}
          <Link href={`/ledger/${deletion.run}`}>
            <time dateTime={deletion.at}>{when(deletion.at)}</time>
          </Link>
          {deletion.with ? (
            <>
              , along with{' '}
              <Link href={`/records/${deletion.with.type}/${deletion.with.id}`}>{deletion.with.title}</Link>
            </>
          ) : null}
          . It counts nowhere; its values stay as they were.
        </p>
      ) : null}
      <dl className={style.binValues}>
        {typeIn(model, record.type).fields.map((field) => (
          <div key={field.key}>
            <dt>{field.name}</dt>
            <dd>{wordsFor(field, record.values[field.key], names)}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}
