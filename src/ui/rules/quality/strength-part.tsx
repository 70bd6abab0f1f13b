'use client';

import { clsx } from 'clsx';
import { typeIn } from '@/core/model';
import {
  BY_ONE,
  caseName,
  EDGE_WORDS,
  type Expectation,
  type ProposedCase,
  type Strength,
} from '@/core/verify';
import { type ProofRunView, type RuleView } from '@/core/api';
import type { WireValue } from '@/core/values';
import { Button, Progress } from 'antd';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { useInvalidate, useModel, useModelView } from '@/ui/api/queries';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { ValueInput } from '@/ui/kit/values/value-input';
import { usePerson } from '@/ui/api/person';
import { type StrengthState, useStrength } from '@/ui/workers/use-strength';
import qualityStyle from './quality.module.css';
import style from './strength-part.module.css';

/** Cases that are shown before the others are asked for. */
const FIRST_CASES = 3;

interface StrengthPartProps {
  readonly rule: RuleView;
  /** `null` while they aren't known, or don't all hold: what a rule does that its proofs say is wrong isn't worth proving. */
  readonly proofs: readonly ProofRunView[] | null;
}

/** How strong a rule's proofs are: what none of them would notice, with cases that would. */
export function StrengthPart({ rule, proofs }: StrengthPartProps) {
  const state = useStrength(rule, proofs && proofs.map(({ proof }) => proof));
  const [isAll, setAll] = useState(false);
  if (proofs === null) return null;
  const { strength, error } = state;
  const cases = strength?.cases ?? [];
  const taken = proofs.map(({ proof }) => proof.name);
  return (
    <div className={qualityStyle.ruleStrength} aria-live="polite">
      <ProblemNotice error={error} />
      <Working state={state} />
      {strength ? <Figure strength={strength} proofs={proofs.length} /> : null}
      {cases.length > 0 ? (
        <>
          <h3>Cases to try</h3>
          <p className="quiet">
            Made-up records, and what the rule gives for them. Keep those that come out as they should; where
            one doesn’t, the rule is wrong.
          </p>
          <ol className={style.strengthCases}>
            {(isAll ? cases : cases.slice(0, FIRST_CASES)).map((one) => (
              <CaseToTry
                key={JSON.stringify([one.records, one.edits])}
                rule={rule}
                found={one}
                taken={taken}
              />
            ))}
          </ol>
          {cases.length > FIRST_CASES && !isAll ? (
            <Button size="small" onClick={() => setAll(true)}>
              {`Show all ${cases.length} cases`}
            </Button>
          ) : null}
        </>
      ) : null}
      {strength ? <Others strength={strength} /> : null}
    </div>
  );
}

function Working({ state: { progress, strength, isStopped, stop, goOn, error } }: { state: StrengthState }) {
  if (strength || error) return null;
  if (isStopped)
    return (
      <p className="quiet">
        Stopped.{' '}
        <Button size="small" onClick={goOn}>
          Find out what no proof would notice
        </Button>
      </p>
    );
  const percent = progress ? Math.round((100 * progress.done) / Math.max(1, progress.of)) : 0;
  return (
    <div className={style.strengthWorking}>
      <span>
        {progress?.phase === 'cases'
          ? 'Looking for cases that would be noticed'
          : 'Changing the rule, to see what its proofs notice'}
      </span>
      <Progress percent={percent} size="small" aria-label="How far the search has come" />
      <Button size="small" onClick={stop}>
        Stop
      </Button>
    </div>
  );
}

/** The strength of the proofs as a figure, and in words. */
function Figure({ strength: { tried, noticed }, proofs }: { strength: Strength; proofs: number }) {
  if (tried === 0) return null;
  const left = tried - noticed;
  return (
    <p className={clsx(style.strengthFigure, left > 0 ? 'advice' : 'quiet')}>
      <strong>{`${noticed} of ${tried}`}</strong>{' '}
      {left === 0
        ? `ways to change the rule a little would be noticed: all of them.`
        : proofs === 0
          ? 'ways to change the rule a little would be noticed, as it has no proof.'
          : `ways to change the rule a little would be noticed. No proof would notice ${left === 1 ? 'one' : left}.`}
    </p>
  );
}

/** A made-up case with what the rule gives for it; kept as a proof by one click, or with what should come instead. */
function CaseToTry({
  rule,
  found,
  taken,
}: {
  rule: RuleView;
  found: ProposedCase;
  taken: readonly string[];
}) {
  const person = usePerson();
  const model = useModelView();
  const forget = useInvalidate();
  const { run, isBusy, error } = useTask();
  const [should, setShould] = useState<readonly Expectation[] | null>(null);
  const { edge, records, edits, gives, notices, family, runs } = found;
  const name = caseName(found, taken);
  const keep = () =>
    run(
      async () => {
        const expectations = should ?? found.expectations;
        const body = {
          ...{ rule: rule.id, name, family, runs, settings: BY_ONE, expectations },
          day: model.data?.settledDay,
        };
        const kept = await callApi<ProofRunView>('/proofs', { method: 'POST', body, person: person.id });
        await forget.everything();
        return kept;
      },
      ({ proof, result }) =>
        result.kind === 'held'
          ? `“${proof.name}” is kept.`
          : `“${proof.name}” is kept. It doesn’t hold until the rule gives that.`,
    );
  return (
    <li>
      <div className="strength-case">
        <strong>{EDGE_WORDS[edge]}</strong>
        <p className={style.caseRecords}>{records.join(' · ')}</p>
        {edits.length > 0 ? <p>Then {edits.join('; then ')}.</p> : null}
        {gives.map((line) => (
          <p key={line} className={should ? style.caseWrong : style.caseGives}>
            {line}
          </p>
        ))}
        {should ? <Should expectations={should} family={family} onChange={setShould} /> : null}
        {notices.length > 0 && !should ? (
          <p className="quiet">
            Notices the rule {notices.slice(0, 2).join(', or ')}
            {notices.length > 2 ? `, and ${notices.length - 2} other changes` : ''}.
          </p>
        ) : null}
        <ProblemNotice error={error} />
      </div>
      <div className={style.caseActions}>
        <Button
          size="small"
          loading={isBusy}
          onClick={() => void keep()}
          aria-label={`Keep as proof: ${name}`}
        >
          {should ? 'Keep with that' : 'Keep as proof'}
        </Button>
        {found.expectations.some((one) => 'field' in one) ? (
          <Button size="small" type="text" onClick={() => setShould(should ? null : found.expectations)}>
            {should ? 'As the rule gives' : 'That’s wrong'}
          </Button>
        ) : null}
      </div>
    </li>
  );
}

interface ShouldProps {
  readonly expectations: readonly Expectation[];
  readonly family: ProposedCase['family'];
  readonly onChange: (expectations: readonly Expectation[]) => void;
}

/** What should come of a case instead of what the rule gives. */
function Should({ expectations, family, onChange }: ShouldProps) {
  const model = useModel();
  if (!model) return null;
  return (
    <div className={style.caseShould}>
      {expectations.map((one, at) => {
        const field = 'field' in one ? model.field(one.type, one.field) : undefined;
        if (!field || !('field' in one)) return null;
        const record = family.records.find(({ id }) => id === one.id);
        const title = String(record?.values[typeIn(model, one.type).title] ?? '');
        const put = (value: WireValue) =>
          onChange(
            expectations.map((other, index) => (index === at ? { ...one, kind: 'becomes', value } : other)),
          );
        return (
          <label key={`${one.id} ${one.field}`}>
            {`${field.name} of ${title} should be`}
            <ValueInput
              type={field.type}
              value={one.value}
              label={`${field.name} of ${title} should be`}
              onChange={put}
            />
          </label>
        );
      })}
    </div>
  );
}

function Others({ strength: { same, undecided } }: { strength: Strength }) {
  return (
    <>
      {undecided.length > 0 ? (
        <Ways
          title="Undecided"
          says="Neither a proof nor any case that was made up tells these from the rule. They may matter all the same."
          ways={undecided}
        />
      ) : null}
      {same.length > 0 ? (
        <Ways
          title="Can’t matter"
          says="So changed the rule gives the same for all records there may be."
          ways={same}
        />
      ) : null}
    </>
  );
}

const Ways = ({ title, says, ways }: { title: string; says: string; ways: readonly string[] }) => (
  <details>
    <summary>{`${title}: ${ways.length}`}</summary>
    <p className="quiet">{says}</p>
    <ul>
      {ways.map((way) => (
        <li key={way}>The rule {way}</li>
      ))}
    </ul>
  </details>
);
