'use client';

import { type RecordType, typeIn } from '@/core/model';
import type { WireValue } from '@/core/values';
import type { WireRecord } from '@/core/verify';
import type { FilledView, ModelView, RecordView, SavedRun } from '@/core/api';
import { useSearchParams } from 'next/navigation';
import { useMemo, useState } from 'react';
import { useTask } from '@/ui/kit/hooks/use-task';
import { ButtonLink, Link, useRouter } from '@/ui/kit/navigation';
import { callApi } from '@/ui/api/client';
import { useInvalidate, modelOf, useModelView, useRecord } from '@/ui/api/queries';
import { useFilled } from '@/ui/api/today-queries';
import { Loading } from '@/ui/kit/loading';
import { isFilledByRule, liveKeeper } from '@/ui/kit/live-keeper';
import { useUnsaved } from '@/ui/kit/unsaved';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { usePerson } from '@/ui/api/person';
import { problemOf, RecordFields, Unplaced } from './form/record-form';
import { savedWords } from '@/ui/records/form/use-save';
import { clsx } from 'clsx';
import recordsStyle from './records.module.css';
import style from './new-record-page.module.css';
import { MayButton } from '@/ui/kit/may-button';

/** A record that isn't there yet; links may be given in the address (`?loan=…`). */
export function NewRecordPage({ type }: { type: string }) {
  const model = useModelView();
  if (model.error) return <ProblemNotice error={model.error} />;
  if (!model.data) return <Loading what="the form" />;
  if (!model.data.types.some(({ key }) => key === type)) {
    return (
      <div className="place-body">
        <ProblemNotice error={new Error(`There is no type “${type}”.`)} />
        <p>
          <Link href="/records">Back to the records</Link>
        </p>
      </div>
    );
  }
  return <Filled view={model.data} type={type} />;
}

/** As a rule would fill it for another record (`?rule=…&source=…`), or empty. */
function Filled({ view, type }: { view: ModelView; type: string }) {
  const query = useSearchParams();
  const [rule, source] = [query.get('rule'), query.get('source')];
  const filled = useFilled(rule, source);
  if (filled.error)
    return (
      <div className="place-body">
        <ProblemNotice error={filled.error} />
        <p>
          <Link href={`/records/${type}`}>Back to the list</Link>
        </p>
      </div>
    );
  if (rule !== null && source !== null && !filled.data) return <Loading what="the form" />;
  return <NewRecord key={type} view={view} type={type} filled={filled.data ?? null} />;
}

function NewRecord({ view, type, filled }: { view: ModelView; type: string; filled: FilledView | null }) {
  const router = useRouter();
  const query = useSearchParams();
  const person = usePerson();
  const forget = useInvalidate();
  const model = useMemo(() => modelOf(view), [view]);
  const recordType = typeIn(model, type);
  const given = model.linksFrom(type).filter(({ link }) => query.get(link));
  const [begun] = useState<Readonly<Record<string, WireValue>>>(() =>
    Object.fromEntries([
      ...defaultsOf(view, recordType),
      ...given.map(({ link }) => [link, query.get(link)] as const),
      ...Object.entries(filled?.values ?? {}),
    ]),
  );
  const [entered, setEntered] = useState(begun);
  const parent = given[0];
  const named = useRecord(parent?.parent ?? type, query.get(parent?.link ?? '') ?? '', parent !== undefined);
  const names = filled
    ? filled.names
    : parent && named.data
      ? { [named.data.record.id]: titleOf(typeIn(model, parent.parent).title, named.data) }
      : {};
  const { isBusy: isSaving, error: problem, run } = useTask();
  /** It is made; its page is on its way. */
  const [isMade, setMade] = useState(false);
  const isBusy = isSaving || isMade;
  useUnsaved(!isMade && entered !== begun ? `Values of a new ${recordType.name.toLowerCase()}` : null);
  const empty: WireRecord = { type, id: '', version: 1, deleted: false, values: {}, errors: {} };
  const changed = recordType.fields.filter(({ key }) => key in entered);
  const isMissing = (recordType.openLinks ?? []).some(
    ({ required, links }) =>
      required &&
      links.every((link) => (entered[link] ?? null) === null && !isFilledByRule(view, type, link)),
  );
  const isInvalid =
    isMissing ||
    recordType.fields.some(
      (field) =>
        (field.required && (entered[field.key] ?? null) === null && !isFilledByRule(view, type, field.key)) ||
        (field.key in entered && problemOf(view, type, field, entered[field.key] ?? null).length > 0),
    );
  const save = () =>
    run(
      async () => {
        const values = Object.fromEntries(Object.entries(entered).filter(([, value]) => value !== null));
        const madeFor = filled ? { madeFor: { rule: filled.rule.id, source: filled.source.id } } : {};
        const made = await callApi<RecordView & SavedRun>(`/records/${type}`, {
          ...{ method: 'POST', body: { values, ...madeFor }, person: person.id },
        });
        await forget.records();
        return made;
      },
      savedWords,
      (made) => {
        setMade(true);
        router.replace(`/records/${type}/${made.record.id}`);
      },
    );
  return (
    <>
      <header className="place-head">
        <nav aria-label="Way here">
          <Link href={`/records/${type}`}>{recordType.plural}</Link>
        </nav>
        <h1>A new {recordType.name.toLowerCase()}</h1>
        {filled ? (
          <span className="place-lead">
            for <Link href={`/records/${filled.source.type}/${filled.source.id}`}>{filled.source.title}</Link>
            , as “{filled.rule.name}” fills it. Nothing is saved yet.
          </span>
        ) : null}
      </header>
      <div className="place-body">
        <form
          className={clsx('sheet', recordsStyle.recordForm, style.recordNew)}
          aria-label="Fields"
          noValidate
          onSubmit={(event) => {
            event.preventDefault();
            if (!isInvalid) void save();
          }}
        >
          <RecordFields
            {...{ model, view, names, entered, changed, problem }}
            record={empty}
            onEnter={(values) => setEntered({ ...entered, ...values })}
          />
          <div className={recordsStyle.recordSave}>
            <Unplaced model={model} type={type} problem={problem} />
            <span className="quiet">What rules keep is filled in as it is saved.</span>
            <ButtonLink href={`/records/${type}`}>Give up</ButtonLink>
            <MayButton right="edit" type="primary" htmlType="submit" disabled={isInvalid} loading={isBusy}>
              Save
            </MayButton>
          </div>
        </form>
      </div>
    </>
  );
}

const titleOf = (title: string, { record }: RecordView): string => String(record.values[title] ?? record.id);

/** What stands in the form to begin with; fields that a rule keeps have no default. */
function defaultsOf(view: ModelView, type: RecordType): (readonly [string, WireValue])[] {
  return type.fields.flatMap((field) =>
    field.default === undefined || field.default === null || liveKeeper(view, type.key, field.key)
      ? []
      : [[field.key, field.default] as const],
  );
}
