'use client';

import type { ModelView, RuleView } from '@/core/api';
import { PlusOutlined } from '@ant-design/icons';
import { Button } from 'antd';
import { useState } from 'react';
import { ButtonLink, Link } from '@/ui/kit/navigation';
import { NoTypes } from '@/ui/kit/no-types';
import { useModelView, useRequests, useRetiredRules, useRules } from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { metWords } from '@/ui/requests/words';
import { KindGlyph } from '@/ui/theme/glyphs';
import { useWhyNot } from '@/ui/api/may';
import { Term } from '@/ui/help/term';
import { RuleList } from './list/rule-list';
import { UnfinishedRules } from './unfinished';
import { RuleDefaultsDialog } from './rule-defaults';
import style from './rules-page.module.css';

/** Every rule, with its state, under what it is put together by. */
export function RulesPage() {
  const rules = useRules();
  const model = useModelView();
  const requests = useRequests();
  const [isSetting, setSetting] = useState(false);
  const whyNot = useWhyNot('writeRules');
  return (
    <>
      <header className="place-head">
        <h1>Rules</h1>
        <span className="place-lead">
          Each <Term of="kept">keeps</Term> its field or <Term of="reacts">reacts</Term>, for all or as a{' '}
          <Term of="pilot">pilot</Term>, held to its <Term of="proof">proofs</Term>.
        </span>
        <div className="place-actions">
          <ButtonLink href="/requests">
            {requests.data?.requests.length ? `Requests: ${metWords(requests.data.requests)}` : 'Requests'}
          </ButtonLink>
          <ButtonLink href="/rules/review">Review</ButtonLink>
          {model.data && !whyNot ? (
            <Button onClick={() => setSetting(true)}>Defaults for new rules</Button>
          ) : null}
          <ButtonLink href="/rules/new" type="primary" icon={<PlusOutlined />} whyNot={whyNot}>
            Write a rule
          </ButtonLink>
        </div>
      </header>
      {isSetting && model.data ? (
        <RuleDefaultsDialog model={model.data} onClose={() => setSetting(false)} />
      ) : null}
      <div className="place-body">
        <ProblemNotice error={rules.error ?? model.error} />
        {rules.data && model.data ? (
          <>
            <UnfinishedRules />
            <Rules rules={rules.data.rules} model={model.data} />
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

function Rules({ rules, model }: { rules: readonly RuleView[]; model: ModelView }) {
  if (model.types.length === 0) return <NoTypes />;
  if (rules.length === 0) {
    return (
      <div className="sheet nothing">
        <strong>No rule is written yet</strong>
        <Link href="/rules/new">Write one</Link>: choose a type of record, the field to keep, and what it is
        made of. Nothing changes until you take it live.
      </div>
    );
  }
  return <RuleList {...{ rules, model }} />;
}
