'use client';

import { buildPlan, feedsOf } from '@/core/plan';
import { targetsOf } from '@/core/rules';
import { type Model, typeIn } from '@/core/model';
import { findingsAmong } from '@/core/verify';
import { type ModelView, type RuleView } from '@/core/api';
import { Checkbox, Select } from 'antd';
import dynamic from 'next/dynamic';
import { useMemo, useState } from 'react';
import { liveOf, modelOf, useModelView, useProofStandings, useRules } from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { ButtonLink, Link } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { feedingNear } from './map/feeding-near';
import { useRulesMap } from './map/use-rules-map';
import { clsx } from 'clsx';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './review-page.module.css';

const RulesMap = dynamic(() => import('./map/rules-map').then((module) => module.RulesMap), {
  ssr: false,
  loading: () => <Loading what="the map" />,
});

/** All rules together: what feeds what, in which order they have their turns, and what is better looked at. */
export function ReviewPage() {
  const rules = useRules();
  const model = useModelView();
  return (
    <>
      <header className="place-head">
        <h1>Review</h1>
        <span className="place-lead">What feeds what, and what is better looked at.</span>
        <div className="place-actions">
          <ButtonLink href="/rules">To the rules</ButtonLink>
        </div>
      </header>
      <div className={clsx('place-body', style.reviewBody)}>
        <ProblemNotice error={rules.error ?? model.error} />
        {rules.data && model.data ? (
          <Reviewed rules={rules.data.rules} view={model.data} />
        ) : rules.error || model.error ? null : (
          <Loading what="the rules" />
        )}
      </div>
    </>
  );
}

/** What a rule writes, in short: `Exhibition: Insured total`. */
function writesIn(model: Model, { definition, name }: RuleView): string {
  if (definition.kind === 'create') return `makes ${model.type(definition.makes)?.name ?? definition.makes}`;
  const [first, ...more] = targetsOf(model, definition);
  const field = first && model.field(first.type, first.field);
  if (!first || !field) return name;
  return `${typeIn(model, first.type).name}: ${field.name}${more.length > 0 ? ` and ${more.length} more` : ''}`;
}

function Reviewed({ rules, view }: { rules: readonly RuleView[]; view: ModelView }) {
  const model = useMemo(() => modelOf(view), [view]);
  const live = useMemo(() => liveOf(rules), [rules]);
  const feeding = useMemo(() => feedsOf(buildPlan(model, live).plan), [model, live]);
  const [selected, setSelected] = useState<string | null>(null);
  const [sought, setSought] = useState<{ readonly id: string } | null>(null);
  const [isNear, setNear] = useState(false);
  const near = isNear ? selected : null;
  const shown = useMemo(() => (near ? feedingNear(feeding, near) : feeding), [feeding, near]);
  const map = useRulesMap(shown);
  const writes = useMemo(
    () => new Map(rules.map((rule) => [rule.id, writesIn(model, rule)])),
    [model, rules],
  );
  const chosen = rules.find(({ id }) => id === selected) ?? null;
  const fed = feeding.find(({ id }) => id === selected) ?? null;
  if (live.length === 0)
    return (
      <div className="sheet nothing">
        <strong>No rule is live yet</strong>
        Once rules are live, the map shows which of them read what others write, and in which order they have
        their turns.
      </div>
    );
  const named = (ids: readonly string[]) => ids.map((id) => writes.get(id) ?? id).join('; ') || 'nothing';
  return (
    <div className={style.reviewColumns}>
      <section className={clsx('sheet', style.reviewMap)} aria-label="What feeds what">
        <ProblemNotice error={map.error} />
        <div className={style.reviewTools}>
          <Select
            aria-label="Find a rule"
            placeholder="Find a rule"
            value={null}
            options={feeding.map(({ id }) => ({
              value: id,
              label: rules.find((one) => one.id === id)?.name ?? id,
            }))}
            onChange={(id: string) => {
              setSelected(id);
              setSought({ id });
            }}
            showSearch={{ optionFilterProp: 'label' }}
            style={{ width: 240 }}
          />
          <Checkbox
            checked={isNear}
            disabled={selected === null}
            onChange={(event) => setNear(event.target.checked)}
          >
            Only {chosen ? `“${chosen.name}”` : 'a rule'}, what feeds it and what it feeds
          </Checkbox>
        </div>
        {map.data ? (
          <RulesMap
            {...{ feeding, rules, writes, selected }}
            sought={near ? null : sought}
            key={near ?? ''}
            map={map.data}
            onSelect={setSelected}
          />
        ) : map.error ? null : (
          <Loading what="the map" />
        )}
      </section>
      <div className={style.reviewSide}>
        <section className="sheet" aria-label="The chosen rule" aria-live="polite">
          <div className="sheet-head">
            <h2>{chosen && fed ? `${fed.place}. ${writes.get(chosen.id)}` : 'In order'}</h2>
          </div>
          {chosen && fed ? (
            <div className={style.reviewChosen}>
              <p>{chosen.sentence}</p>
              <p className="quiet">
                Fed by {named(feeding.filter(({ feeds }) => feeds.includes(chosen.id)).map(({ id }) => id))}.
                <br />
                Feeds {named(fed.feeds)}.
              </p>
              {fed.isInCircle ? (
                <p className="advice">
                  It lies on a circle through a rule that reacts: a run goes round until nothing follows.
                </p>
              ) : null}
              <Link href={`/rules/${chosen.id}`}>Open the rule</Link>
            </div>
          ) : (
            <p className={clsx('quiet', style.reviewChosen)}>
              {`${feeding.length} live rules have their turns from left to right: each is worked out once, after all that it reads is final. Choose one to see what feeds it and what it feeds.`}
            </p>
          )}
        </section>
        <AllFindings rules={rules} model={model} />
      </div>
    </div>
  );
}

interface Found {
  readonly rule: RuleView;
  readonly why: string;
  readonly isInTheWay: boolean;
}

function AllFindings({ rules, model }: { rules: readonly RuleView[]; model: Model }) {
  const standings = useProofStandings();
  const found = useMemo(() => rules.flatMap((rule) => findingsIn(model, rules, rule)), [model, rules]);
  const proven = new Set(standings.data?.rules.filter(({ proofs }) => proofs > 0).map(({ rule }) => rule));
  const unproven: Found[] = standings.data
    ? rules
        .filter(({ id }) => !proven.has(id))
        .map((rule) => ({ rule, why: 'No proof covers it.', isInTheWay: false }))
    : [];
  const all = [...found, ...unproven];
  return (
    <section className="sheet" aria-label="What is better looked at">
      <div className="sheet-head">
        <h2>Better looked at</h2>
        <span className="quiet">{all.length === 0 ? 'Nothing' : all.length}</span>
      </div>
      <ProblemNotice error={standings.error} />
      {all.length === 0 ? (
        <p className={clsx('quiet', style.reviewChosen)}>
          Nothing was found in any rule, and each has a proof.
        </p>
      ) : null}
      <ul className={style.reviewList}>
        {all.map(({ rule, why, isInTheWay }) => (
          <li key={`${rule.id} ${why}`}>
            <Link href={`/rules/${rule.id}`}>{rule.name}</Link>
            <span className={isInTheWay ? kitStyle.proofFails : undefined}>{why}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What is found in one rule among the live ones: what is in its way first. */
function findingsIn(model: Model, rules: readonly RuleView[], rule: RuleView): Found[] {
  const others = liveOf(rules.filter(({ id }) => id !== rule.id));
  const written = { id: rule.id, version: '', name: rule.name, definition: rule.definition };
  const { problems, advice, review } = findingsAmong(model, others, written);
  return [
    ...problems.map(({ message }) => ({ rule, why: message, isInTheWay: true })),
    ...advice.map(({ message }) => ({ rule, why: message, isInTheWay: false })),
    ...review.map(({ why }) => ({ rule, why, isInTheWay: false })),
  ];
}
