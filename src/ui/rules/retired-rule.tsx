'use client';

import type { RuleView } from '@/core/api';
import { App } from 'antd';
import { MayButton } from '@/ui/kit/may-button';
import { callApi } from '@/ui/api/client';
import { useInvalidate } from '@/ui/api/queries';
import { Link } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { StateTag } from '@/ui/kit/state-tag';
import { useTask } from '@/ui/kit/hooks/use-task';
import { when } from '@/ui/kit/values/when';
import { usePerson } from '@/ui/api/person';
import { KindGlyph } from '@/ui/theme/glyphs';
import { clsx } from 'clsx';
import style from './retired-rule.module.css';

/** A rule that is out of the lists and of every check: what it said, and the way back. */
export function RetiredRule({ rule }: { rule: RuleView }) {
  const { id: person } = usePerson();
  const forget = useInvalidate();
  const { message } = App.useApp();
  const { run, isBusy, error } = useTask();
  const takeBack = () =>
    run(
      async () => {
        await callApi(`/rules/${rule.id}/state`, { method: 'POST', body: { state: 'paused' }, person });
        await forget.everything();
      },
      null,
      () => void message.success('Taken back: it is paused.'),
    );
  return (
    <>
      <header className="place-head">
        <h1>
          <Link href="/rules">Rules</Link> <span className="quiet">›</span>{' '}
          <KindGlyph kind={rule.definition.kind} size={18} /> {rule.name}
        </h1>
        <StateTag state={rule.state} />
        <div className="place-actions">
          <MayButton right="takeLive" type="primary" loading={isBusy} onClick={() => void takeBack()}>
            Take it back
          </MayButton>
        </div>
      </header>
      <div className="place-body">
        <ProblemNotice error={error} />
        <section className={clsx('sheet', style.retiredRule)}>
          <p>{rule.sentence}</p>
          {rule.note ? <p className="quiet">{rule.note}</p> : null}
          <p className="quiet">
            Retired {when(rule.stateChangedAt)}. It changes nothing, and no change of the model or of other
            rules minds it. Its versions, its proofs and what it did stay in the ledger. Taken back it is
            paused, as it was.
          </p>
        </section>
      </div>
    </>
  );
}
