'use client';

import { compileRule, sentenceParts } from '@/core/rules';
import type { ProofStanding } from '@/core/verify';
import type { ModelView, RuleView } from '@/core/api';
import { PlusOutlined } from '@ant-design/icons';
import { Button, Progress } from 'antd';
import { useState } from 'react';
import { Link } from '@/ui/kit/navigation';
import {
  modelOf,
  useModelView,
  usePeople,
  useProofStandings,
  useRequests,
  useRetiredRules,
  useRules,
} from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problem-notice';
import { StateTag } from '@/ui/kit/state-tag';
import { metWords } from '@/ui/requests/words';
import { KindGlyph } from '@/ui/theme/glyphs';
import { type Figure, type FiguresState, useFigures } from '@/ui/workers/use-strength';
import { RuleDefaultsDialog } from './rule-defaults';
import { clsx } from 'clsx';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './rules-page.module.css';

/** Every rule as its sentence, with its state, under the type that it is on. */
export function RulesPage() {
  const rules = useRules();
  const model = useModelView();
  const requests = useRequests();
  const [isSetting, setSetting] = useState(false);
  return (
    <>
      <header className="place-head">
        <h1>Rules</h1>
        <span className="place-lead">What must hold between records. Each rule reads as a sentence.</span>
        <div className="place-actions">
          <Link href="/requests">
            <Button>
              {requests.data?.requests.length ? `Requests: ${metWords(requests.data.requests)}` : 'Requests'}
            </Button>
          </Link>
          <Link href="/rules/review">
            <Button>Review</Button>
          </Link>
          {model.data ? <Button onClick={() => setSetting(true)}>Defaults for new rules</Button> : null}
          <Link href="/rules/new">
            <Button type="primary" icon={<PlusOutlined />}>
              Write a rule
            </Button>
          </Link>
        </div>
      </header>
      {isSetting && model.data ? (
        <RuleDefaultsDialog model={model.data} onClose={() => setSetting(false)} />
      ) : null}
      <div className="place-body">
        <ProblemNotice error={rules.error ?? model.error} />
        {rules.data && model.data ? (
          <>
            <RuleList rules={rules.data.rules} model={model.data} />
            <Retired />
          </>
        ) : rules.error || model.error ? null : (
          <Loading what="the rules" />
        )}
      </div>
    </>
  );
}

/** Rules that were retired, out of the way; shown only where there are some. */
function Retired() {
  const { data } = useRetiredRules();
  if (!data || data.rules.length === 0) return null;
  return (
    <details className={style.retiredRules}>
      <summary>Retired rules: {data.rules.length}</summary>
      <ul>
        {data.rules.map((rule) => (
          <li key={rule.id}>
            <KindGlyph kind={rule.definition.kind} size={14} />{' '}
            <Link href={`/rules/${rule.id}`}>{rule.name}</Link> <span className="quiet">{rule.sentence}</span>
          </li>
        ))}
      </ul>
    </details>
  );
}

function RuleList({ rules, model }: { rules: readonly RuleView[]; model: ModelView }) {
  const proofs = useProofStandings();
  const figures = useFigures(rules, proofs.data?.rules ?? []);
  if (rules.length === 0) {
    return (
      <div className="sheet nothing">
        <strong>No rule is written yet</strong>
        Write one: choose a type of record, the field to keep, and what it is made of. Nothing changes until
        you take it live.
      </div>
    );
  }
  const groups = model.types
    .map((type) => ({ type, rules: rules.filter((rule) => rule.definition.type === type.key) }))
    .filter((group) => group.rules.length > 0);
  return (
    <>
      <HowStrong state={figures} />
      {groups.map(({ type, rules: ofType }) => (
        <section
          key={type.key}
          className={clsx('sheet', style.ruleGroup)}
          aria-label={`Rules on ${type.plural}`}
        >
          <div className="sheet-head">
            <h2>On every {type.name}</h2>
          </div>
          <ul className={style.ruleList}>
            {ofType.map((rule) => (
              <RuleRow
                key={rule.id}
                rule={rule}
                model={model}
                proofs={
                  proofs.data ? (proofs.data.rules.find((one) => one.rule === rule.id) ?? null) : undefined
                }
                figure={figures.figures.get(rule.id) ?? null}
              />
            ))}
          </ul>
        </section>
      ))}
    </>
  );
}

/** Asks how strong the proofs of all rules are, which takes a while; it can be stopped. */
function HowStrong({ state: { done, of, isAsked, ask, stop, error } }: { state: FiguresState }) {
  if (of === 0) return null;
  return (
    <div className={style.ruleStrengths} aria-live="polite">
      <ProblemNotice error={error} />
      {done === of ? (
        <span className="quiet">
          Beside each rule stands how many ways to change it a little its proofs notice.
        </span>
      ) : isAsked ? (
        <>
          <Progress
            percent={Math.round((100 * done) / of)}
            size="small"
            aria-label="How many rules have been looked at"
          />
          <Button size="small" onClick={stop}>
            Stop
          </Button>
        </>
      ) : (
        <Button size="small" onClick={ask}>
          How strong are the proofs?
        </Button>
      )}
    </div>
  );
}

interface RuleRowProps {
  readonly rule: RuleView;
  readonly model: ModelView;
  /** `null` where it has none; left out until that is known. */
  readonly proofs: ProofStanding | null | undefined;
  /** What its proofs notice, where that is known. */
  readonly figure: Figure | null;
}

function RuleRow({ rule, model, proofs, figure }: RuleRowProps) {
  return (
    <li>
      <Link href={`/rules/${rule.id}`} className={style.ruleRow}>
        <KindGlyph kind={rule.definition.kind} size={22} />
        <span>
          <RuleSentence rule={rule} model={model} />
          {rule.note ? <span className={style.ruleNote}>{rule.note}</span> : null}
        </span>
        <span className={style.ruleStates}>
          <StateTag state={rule.state} isPilot={rule.pilot !== null} />
          {rule.pilot ? <span className={style.rulePilot}>for {rule.pilot.words}</span> : null}
          {rule.hasChangesNotLive ? <span className="state-tag">Change not live</span> : null}
          {rule.findings.length > 0 && rule.state !== 'live' ? (
            <span className={style.ruleHindered}>Can’t go live yet</span>
          ) : null}
          {proofs === undefined ? null : <ProofsTold {...{ proofs, figure }} />}
        </span>
      </Link>
    </li>
  );
}

function ProofsTold({ proofs, figure }: Pick<RuleRowProps, 'figure'> & { proofs: ProofStanding | null }) {
  if (!proofs) return <span className={clsx('quiet', style.ruleProven)}>No proof</span>;
  const { proofs: all, held } = proofs;
  const missed = all - held;
  if (missed > 0)
    return (
      <span
        className={clsx(style.ruleProven, kitStyle.proofFails)}
      >{`${missed} of ${all} proofs ${missed === 1 ? 'doesn’t' : 'don’t'} hold`}</span>
    );
  return (
    <>
      <span className={clsx('quiet', style.ruleProven)}>
        {all === 1 ? '1 proof holds' : `${all} proofs hold`}
      </span>
      {figure && figure.tried > 0 ? (
        <span className={clsx(style.ruleProven, figure.noticed < figure.tried ? style.ruleWeak : 'quiet')}>
          {`${figure.noticed} of ${figure.tried} changes noticed`}
        </span>
      ) : null}
    </>
  );
}

function RuleSentence({ rule, model }: { rule: RuleView; model: ModelView }) {
  const people = usePeople();
  const nameOf = (id: string) => people.data?.people.find((person) => person.id === id)?.name;
  const read = modelOf(model);
  const compiled = compileRule(read, {
    id: rule.id,
    version: '',
    name: rule.name,
    definition: rule.definition,
  });
  if (!compiled.ok) return <span className={style.ruleSentence}>{rule.sentence}</span>;
  return (
    <span className={style.ruleSentence}>
      {sentenceParts(read, compiled.rule, nameOf).map(({ text, part }, index) =>
        part ? <em key={index}>{text}</em> : <span key={index}>{text}</span>,
      )}
    </span>
  );
}
