'use client';

import type { RuleWorkerSetup } from '@/ui/workers/rule-worker';
import type { Model, RecordType } from '@/core/model';
import type { ModelView, RuleView, SampleFamilyView } from '@/core/api';
import { Select } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { useSearchParams } from 'next/navigation';
import { useMemo, useState } from 'react';
import { Link, useRouter } from '@/ui/kit/navigation';
import { NoTypes } from '@/ui/kit/no-types';
import {
  isLiveForAll,
  modelOf,
  useFamilies,
  useModelView,
  useProof,
  useRecords,
  useRules,
  useRuleVersions,
} from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { DayChoice } from '@/ui/kit/values/date-input';
import { ValueInput } from '@/ui/kit/values/value-input';
import { useRuleWorker } from '@/ui/workers/use-rule-worker';
import { warmWorker } from '@/ui/workers/the-worker';
import { Rehearsing } from './rehearsing';
import { typeOnBench, withChildren } from './type-on-bench';
import { Families, FamilyNote } from './family/families';
import { clsx } from 'clsx';
import benchStyle from './bench.module.css';
import style from './bench-page.module.css';

// The page can't show a family before the worker has read its script: it begins as soon as the page's own is there.
warmWorker();

/** The bench: a sample family on which edits are staged and their ripple is seen. Saves nothing. */
export function BenchPage() {
  const query = useSearchParams();
  const router = useRouter();
  const model = useModelView();
  const rules = useRules();
  const types = withChildren(model.data?.types ?? []);
  const askedType = query.get('type');
  const type = model.data ? typeOnBench(model.data, askedType) : null;
  const first = useRecords(type, { limit: 1 });
  const id = query.get('id') ?? first.data?.records.find((record) => record.type === type)?.id ?? null;
  const drafts = query.getAll('rule').filter((rule) => rule !== '');
  const kept = query.get('kept');
  const families = useFamilies();
  const family = families.data?.families.find((one) => one.id === kept) ?? null;
  const proven = useProof(query.get('proof'));
  const isProving = query.get('proof') !== null;
  // An earlier version of a rule stands in for its latest.
  const asked = { rule: query.get('rule'), version: query.get('version') };
  const versions = useRuleVersions(asked.version ? asked.rule : null);
  const earlier = versions.data?.versions.find((one) => one.id === asked.version) ?? null;
  const [day, setDay] = useState<string | null>(null);
  const { ruleWorker, problem } = useRuleWorker(type, id, kept, null, proven.data ?? null, day);
  const [besideId, setBeside] = useState<string | null>(null);
  const beside = useRuleWorker(besideId ? type : null, besideId, null, null, null, day);
  const [isChoosing, setChoosing] = useState(false);
  const onBeside = () => (besideId ? setBeside(null) : setChoosing(true));
  const taking = useMemo(
    () =>
      (rules.data?.rules ?? []).map((rule) =>
        earlier && rule.id === asked.rule ? { ...rule, definition: earlier.definition } : rule,
      ),
    [rules.data, earlier, asked.rule],
  );
  const read = useMemo(() => (model.data ? modelOf(model.data) : null), [model.data]);
  const go = (change: Going) => {
    const next = new URLSearchParams();
    next.set('type', change.kept?.root.type ?? change.type ?? type ?? '');
    const nextId = change.type ? null : (change.id ?? id);
    const stays = change.drafts !== undefined ? kept : null;
    const nextKept = change.kept ? change.kept.id : stays;
    if (nextKept) next.set('kept', nextKept);
    else if (nextId) next.set('id', nextId);
    for (const rule of change.drafts ?? drafts) next.append('rule', rule);
    router.replace(`/bench?${next.toString()}`);
  };
  return (
    <>
      <BenchHead
        {...{
          model: model.data ?? null,
          type,
          id,
          kept,
          isProving,
          types,
          drafts,
          rules: rules.data?.rules ?? [],
        }}
        {...{ read, onGo: go, onDay: setDay }}
        setup={ruleWorker?.setup ?? null}
        settled={proven.data?.day ?? null}
      />
      {isChoosing && type ? (
        <BesideDialog type={type} onChoose={setBeside} onClose={() => setChoosing(false)} />
      ) : null}
      <ProblemNotice
        error={beside.problem ?? versions.error ?? proven.error ?? problem ?? model.error ?? rules.error}
      />
      {family && read && ruleWorker ? <FamilyNote model={read} family={family} /> : null}
      {earlier ? (
        <p
          className={clsx('advice', style.benchVersion)}
        >{`Version ${earlier.number} takes part in place of the rule as it is: ${earlier.sentence}`}</p>
      ) : null}
      {ruleWorker &&
      rules.data &&
      (asked.version === null || earlier) &&
      (kept === null || families.data) &&
      (!isProving || proven.data) ? (
        <div className={besideId ? benchStyle.benchTwo : benchStyle.benchOne}>
          <Rehearsing
            {...{ drafts, onBeside, isBeside: besideId !== null }}
            key={`${kept} ${proven.data?.id} ${ruleWorker.setup.family.root.id}`}
            name="Family"
            isReal={kept === null && !isProving && day === null}
            proof={proven.data ?? null}
            onKept={(made) => go({ kept: made })}
            ruleWorker={ruleWorker}
            rules={taking}
            comparesAtFirst={asked.version !== null}
          />
          {besideId && beside.ruleWorker ? (
            <Rehearsing
              {...{ drafts, onBeside, isBeside: true }}
              key={besideId}
              name="Family beside it"
              isReal={day === null}
              proof={null}
              onKept={(made) => go({ kept: made })}
              ruleWorker={beside.ruleWorker}
              rules={taking}
              comparesAtFirst={asked.version !== null}
            />
          ) : besideId ? (
            <Loading what="the family beside it" />
          ) : null}
        </div>
      ) : problem ? null : model.data && (type === null || first.data?.records.length === 0) ? (
        <NothingToTry {...{ type }} hasTypes={model.data.types.length > 0} />
      ) : (
        <Loading what="the family" />
      )}
    </>
  );
}

/** What to do first where there is no record with others beneath it. */
function NothingToTry({ type, hasTypes }: { readonly type: string | null; readonly hasTypes: boolean }) {
  return (
    <div className="place-body">
      {type !== null ? (
        <div className="sheet nothing">
          <strong>There is no record of this type yet</strong>
          Add one in <Link href={`/records/${type}`}>Records</Link>, or take some in from a file; then try
          rules on it here.
        </div>
      ) : hasTypes ? (
        <div className="sheet nothing">
          <strong>No type has records beneath it yet</strong>
          The bench tries rules on a record with what hangs under it. Add a link between two types in the{' '}
          <Link href="/model">model</Link>, or see the <Link href="/records">records</Link>.
        </div>
      ) : (
        <NoTypes />
      )}
    </div>
  );
}

/** Where the bench goes on: to another type, record, kept family or other drafts. */
interface Going {
  readonly type?: string;
  readonly id?: string | null;
  readonly kept?: SampleFamilyView | null;
  readonly drafts?: readonly string[];
}

interface HeadProps {
  readonly model: ModelView | null;
  /** The same, read. */
  readonly read: Model | null;
  /** Types that have children. */
  readonly types: readonly RecordType[];
  readonly type: string | null;
  readonly id: string | null;
  readonly kept: string | null;
  readonly isProving: boolean;
  readonly setup: RuleWorkerSetup | null;
  /** The day of the proof that is looked at. */
  readonly settled: string | null;
  readonly rules: readonly RuleView[];
  readonly drafts: readonly string[];
  readonly onGo: (change: Going) => void;
  readonly onDay: (day: string | null) => void;
}

/** Which family is on the bench, by which day, and which rules take part. */
function BenchHead(props: HeadProps) {
  const { model, read, types, type, id, kept, isProving, setup, settled, rules, drafts, onGo, onDay } = props;
  return (
    <header className={clsx('place-head', style.benchHead)}>
      <h1>Bench</h1>
      <Select
        aria-label="Type of family"
        value={type}
        options={types.map(({ key, name }) => ({ value: key, label: name }))}
        onChange={(key) => onGo({ type: key })}
        style={{ width: 130 }}
      />
      {type && kept === null && !isProving ? (
        <span className={style.benchFamily}>
          <ValueInput
            key={type}
            type={{ kind: 'link', target: type }}
            value={id}
            onChange={(chosen) => onGo({ id: chosen as string | null })}
            label="Sample family"
            title={setup?.family.names[id ?? '']}
          />
        </span>
      ) : null}
      {type && read && !isProving ? (
        <Families
          model={read}
          {...{ type, kept }}
          root={setup?.family.root ?? null}
          onOpen={(chosen) => onGo({ kept: chosen })}
        />
      ) : null}
      {setup && model ? (
        <DayChoice
          label="Day on the bench"
          day={setup.settledDay}
          isMarked={setup.settledDay !== (settled ?? model.settledDay)}
          onChange={(day) => onDay(day === (settled ?? model.settledDay) ? null : day)}
        />
      ) : null}
      <DraftSelect rules={rules} chosen={drafts} onChange={(chosen) => onGo({ drafts: chosen })} />
      <span className={style.benchPromise}>Nothing here is saved.</span>
    </header>
  );
}

/** Rules that may take part although they aren't live as they stand. */

function DraftSelect({
  rules,
  chosen,
  onChange,
}: {
  rules: readonly RuleView[];
  chosen: readonly string[];
  onChange: (chosen: string[]) => void;
}) {
  const offered = rules.filter((rule) => !isLiveForAll(rule) || chosen.includes(rule.id));
  if (offered.length === 0) return null;
  return (
    <Select
      mode="multiple"
      aria-label="Rules that take part although they are not live"
      placeholder="Live rules take part. Add drafts …"
      value={[...chosen]}
      maxTagCount="responsive"
      options={offered.map((rule) => ({ value: rule.id, label: rule.name }))}
      onChange={onChange}
      style={{ flex: '1 1 240px', minWidth: 200, maxWidth: 420 }}
    />
  );
}

/** Chooses a record whose family stands beside the first, with the same rules. */
function BesideDialog({
  type,
  onChoose,
  onClose,
}: {
  type: string;
  onChoose: (id: string) => void;
  onClose: () => void;
}) {
  return (
    <Dialog open title="Another family beside it" footer={null} onCancel={onClose}>
      <ValueInput
        type={{ kind: 'link', target: type }}
        value={null}
        autoFocus
        label="Family beside it"
        onChange={(id) => {
          if (typeof id === 'string') onChoose(id);
          onClose();
        }}
      />
    </Dialog>
  );
}
