'use client';

import { compileRule, type RuleDefinition } from '@/core/rules';
import type { Problem } from '@/core/values';
import {
  closedFields,
  type Fix,
  findingsAmong,
  fixesOf,
  type ReviewFinding,
  testedFields,
  withoutTestsOf,
} from '@/core/verify';
import { type ModelView, type RuleView } from '@/core/api';
import { Button, Popconfirm } from 'antd';
import { Fragment, useMemo } from 'react';
import { callApi } from '@/ui/api/client';
import { liveOf, modelOf, useInvalidate, useMeasures } from '@/ui/api/queries';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { usePerson } from '@/ui/api/person';
import { clsx } from 'clsx';
import style from './findings.module.css';

interface Written {
  readonly view: ModelView;
  readonly rules: readonly RuleView[];
  /** `null` for a new one. */
  readonly rule: RuleView | null;
  readonly name: string;
  readonly definition: RuleDefinition | null;
}

export interface RuleFindings {
  /** What stands in the way, part by part. */
  readonly problems: readonly Problem[];
  /** How some of these would be put right. */
  readonly fixes: readonly { readonly problem: Problem; readonly fix: Fix }[];
  /** What is better known. */
  readonly advice: readonly Problem[];
  readonly review: readonly ReviewFinding[];
  /** Why it isn't known what the data says. */
  readonly error: Error | null;
}

const NONE = { problems: [], fixes: [], advice: [], review: [] };

/** What is found in a rule as it is written, with the live rules as they are and by what the data says. */
export function useFindings({ view, rules, rule, name, definition }: Written): RuleFindings {
  const model = useMemo(() => modelOf(view), [view]);
  const found = useMemo((): Omit<RuleFindings, 'error'> => {
    if (!definition) return NONE;
    const live = liveOf(rules.filter((other) => other.id !== rule?.id));
    const id = rule?.id ?? 'new';
    const written = { id, version: '', name, definition };
    const { problems, advice, review } = findingsAmong(model, live, written);
    return {
      ...{ problems, advice, review },
      fixes: problems.flatMap((problem) =>
        fixesOf(model, live, written, problem).map((fix) => ({ problem, fix })),
      ),
    };
  }, [model, rules, rule, name, definition]);
  const measured = useMemo(() => {
    const isSound =
      definition !== null && compileRule(model, { id: '', version: '', name: '', definition }).ok;
    return isSound ? [...testedFields(model, definition), ...closedFields(model, definition)] : [];
  }, [model, definition]);
  const measures = useMeasures(definition, measured);
  const told = measured.length > 0 ? (measures.data?.findings ?? []) : [];
  // What would put it right is of the rule as it is written now.
  const now = told.map((one) => ({
    ...one,
    fix: one.about && definition ? withoutTestsOf(model, definition, one.about) : null,
  }));
  return { ...found, review: [...found.review, ...now], error: measures.error };
}

interface FindingsProps {
  readonly findings: RuleFindings;
  readonly onFix: (definition: RuleDefinition) => void;
}

/** What is found in a rule, each with why, and a press that puts it right where that is plain. */
export function Findings({ findings: { problems, fixes, advice, review, error }, onFix }: FindingsProps) {
  const button = (fix: Fix | null | undefined) =>
    !fix ? null : 'pauses' in fix ? (
      <PauseOther {...fix} />
    ) : (
      <Button size="small" onClick={() => onFix(fix.definition)}>
        {fix.label}
      </Button>
    );
  return (
    <div aria-live="polite">
      <ProblemNotice error={error} />
      {problems.map((problem) => (
        <p key={`${problem.place} ${problem.message}`} className={clsx('finding', style.reviewFinding)}>
          <span>{problem.message}</span>
          <span className={style.fixes}>
            {fixes.flatMap(({ problem: of, fix }) =>
              of === problem ? [<Fragment key={fix.label}>{button(fix)}</Fragment>] : [],
            )}
          </span>
        </p>
      ))}
      {advice.map(({ message }) => (
        <p key={message} className="advice">
          {message}
        </p>
      ))}
      {review.map(({ code, why, fix }) => (
        <p key={`${code} ${why}`} className={clsx('advice', style.reviewFinding)}>
          <span>{why}</span>
          {button(fix)}
        </p>
      ))}
    </div>
  );
}

/** Pauses another rule, once that is confirmed: its values stand still. */
function PauseOther({ label, pauses }: Extract<Fix, { readonly pauses: string }>) {
  const person = usePerson();
  const forget = useInvalidate();
  const { run, isBusy, error } = useTask();
  const pause = () =>
    run(
      async () => {
        const body = { state: 'paused' };
        await callApi(`/rules/${pauses}/state`, { method: 'POST', body, person: person.id });
        await forget.everything();
      },
      () => 'It is paused. Its values stand still.',
    );
  return (
    <>
      <Popconfirm
        title={`${label}?`}
        description="Its values stand still, and people may enter them, until it is resumed."
        okText="Pause it"
        cancelText="Not now"
        onConfirm={() => void pause()}
      >
        <Button size="small" loading={isBusy}>
          {label}
        </Button>
      </Popconfirm>
      <ProblemNotice error={error} />
    </>
  );
}
