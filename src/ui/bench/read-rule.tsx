'use client';

import { certain } from '@/core/values';
import { clsx } from 'clsx';
import { type Model, typeIn } from '@/core/model';
import type { ConditionRead, TestRead, Verdict, WireRecord } from '@/core/verify';
import { useQuery } from '@tanstack/react-query';
import { Select } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { useState } from 'react';
import { Loading } from '@/ui/kit/loading';
import { Link } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { WorkedResult } from '@/ui/rules/preview/worked-example';
import type { OpenRuleWorker } from '@/ui/workers/use-rule-worker';
import type { Drafted, RuleRead, Staged } from '@/ui/workers/rule-worker';
import style from './read-rule.module.css';

interface ReadRuleProps {
  readonly model: Model;
  readonly ruleWorker: OpenRuleWorker;
  readonly staged: Staged;
  readonly drafts: readonly Drafted[];
  /** Members of the family as they would stand. */
  readonly records: readonly WireRecord[];
  /** What is read at first; the first rule on the first record where nothing is said. */
  readonly at?: ReadAt;
  readonly onClose: () => void;
}

/** A rule on a record. */
export interface ReadAt {
  readonly rule: string;
  readonly record: string;
}

/** Reads one rule on one record, step by step: each test with its two sides and its verdict, each input, the result. */
export function ReadRule({ model, ruleWorker, staged, drafts, records, at: asked, onClose }: ReadRuleProps) {
  const { live } = ruleWorker.setup;
  const rules = [...drafts, ...live.filter(({ id }) => !drafts.some((draft) => draft.id === id))];
  const [rule, setRule] = useState(asked?.rule ?? rules[0]?.id ?? null);
  const type = rules.find(({ id }) => id === rule)?.definition.type;
  const [chosen, setChosen] = useState<string | null>(asked?.record ?? null);
  const record =
    records.find(({ id }) => id === chosen) ?? records.find((one) => one.type === type) ?? records[0] ?? null;
  const at = record ? { type: record.type, id: record.id } : null;
  const { data, error } = useQuery({
    queryKey: ['rehearsed', 'read', ruleWorker.key, rule, at, staged, drafts],
    queryFn: () =>
      ruleWorker.run<RuleRead | null>(async (remote) =>
        remote.read(certain(rule), certain(at), staged, drafts),
      ),
    enabled: rule !== null && at !== null,
    staleTime: Infinity,
    gcTime: 30_000,
  });
  const titleOf = ({ type: of, values }: WireRecord) =>
    `${String(values[typeIn(model, of).title] ?? '')} (${typeIn(model, of).name})`;
  return (
    <Dialog open width={760} title="Read a rule on a record" footer={null} onCancel={onClose}>
      <div className={style.readChoice}>
        <Select
          aria-label="Rule that is read"
          value={rule}
          showSearch={{ optionFilterProp: 'label' }}
          options={rules.map(({ id, name }) => ({ value: id, label: name }))}
          onChange={(id: string) => {
            setRule(id);
            setChosen(null);
          }}
        />
        <Select
          aria-label="Record on which it is read"
          value={record?.id ?? null}
          showSearch={{ optionFilterProp: 'label' }}
          options={records.map((one) => ({ value: one.id, label: titleOf(one) }))}
          onChange={setChosen}
        />
      </div>
      {rule ? (
        <p>
          <Link href={`/rules/${rule}`}>Open the rule</Link>
        </p>
      ) : null}
      <ProblemNotice error={error} />
      {data ? <Read read={data} /> : null}
      {data === null ? <p>This record isn’t there with what is staged, or the rule takes no part.</p> : null}
      {data === undefined && !error ? <Loading what="the rule" /> : null}
    </Dialog>
  );
}

function Read({ read: { conditions, explanation } }: { read: RuleRead }) {
  if (conditions.length === 0 && !explanation)
    return <p>The rule asks nothing of this record, and keeps no field on it. Choose another record.</p>;
  return (
    <>
      {conditions.map((condition) => (
        <Condition key={condition.name} condition={condition} />
      ))}
      {explanation ? <WorkedResult explanation={explanation} /> : null}
    </>
  );
}

function Condition({ condition: { name, record, test } }: { condition: ConditionRead }) {
  return (
    <section className={style.readCondition} aria-label={name}>
      <h3>
        {name.charAt(0).toUpperCase() + name.slice(1)} <span className="quiet">of {record}</span>
      </h3>
      <ul>
        <Test test={test} />
      </ul>
    </section>
  );
}

const VERDICTS: Record<Verdict, string> = {
  holds: 'holds',
  fails: 'doesn’t hold',
  outside: 'outside this family',
  problem: 'can’t be told',
};
const JOINS = { all: 'All of these', any: 'Any of these', none: 'None of these' } as const;

const LOOKS: Record<Verdict, string | undefined> = {
  holds: style.readHolds,
  fails: style.readFails,
  outside: style.readOutside,
  problem: style.readProblem,
};

function Test({ test: { words, verdict, sides, operator, join, of } }: { test: TestRead }) {
  const said = <span className={clsx(style.readVerdict, LOOKS[verdict])}>{VERDICTS[verdict]}</span>;
  if (join)
    return (
      <li>
        {of.length === 1 ? words : JOINS[join]} {said}
        <ul>
          {of.map((one, at) => (
            <Test key={`${at} ${one.words}`} test={one} />
          ))}
        </ul>
      </li>
    );
  const [left, right] = sides;
  return (
    <li>
      {left ? (
        <>
          {left.words}
          {left.words === left.value ? null : <strong> {left.value}</strong>} {operator}{' '}
          {right ? (
            <>
              {right.words === right.value ? null : `${right.words} `}
              <strong>{right.value}</strong>
            </>
          ) : null}
        </>
      ) : (
        words
      )}{' '}
      {said}
    </li>
  );
}
