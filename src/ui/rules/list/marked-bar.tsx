'use client';

import { writeCount } from '@/core/values';
import type { Model } from '@/core/model';
import type { RuleView } from '@/core/api';
import { Button } from 'antd';
import { useState } from 'react';
import { isLiveForAll, useInvalidate } from '@/ui/api/queries';
import { callApi } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { counted } from '@/ui/kit/values/counted';
import { CopyDialog } from './copy-dialog';
import { TagsDialog } from './tags-dialog';
import { TakeLiveDialog } from './take-live-dialog';
import style from './marked-bar.module.css';

export interface MarkedBarProps {
  readonly rules: readonly RuleView[];
  readonly marked: readonly RuleView[];
  readonly model: Model;
  readonly onClear: () => void;
}

/** What can be done with the rules that are marked; each says for how many of them it can. */
export function MarkedBar({ rules, marked, model, onClear }: MarkedBarProps) {
  const [opened, open] = useState<'live' | 'tags' | 'copy' | null>(null);
  const person = usePerson();
  const forget = useInvalidate();
  const { isBusy, error, run } = useTask();
  const live = marked.filter(({ state }) => state === 'live');
  const waiting = marked.filter((rule) => !isLiveForAll(rule));
  const of = (some: readonly RuleView[]) =>
    some.length === marked.length || some.length === 0 ? '' : ` ${writeCount(some.length)}`;
  const pause = () =>
    run(
      async () => {
        await callApi('/paused-rules', {
          ...{ method: 'POST', person: person.id, body: { rules: live.map(({ id }) => id) } },
        });
        await forget.everything();
      },
      () => `${counted(live.length, 'rule is', 'rules are')} paused. Their values stand still.`,
    );
  const close = () => open(null);
  return (
    <section className={style.bar} aria-label="Marked rules">
      <strong aria-live="polite">{counted(marked.length, 'rule', 'rules')} marked</strong>
      <Button disabled={waiting.length === 0} onClick={() => open('live')}>
        Take{of(waiting)} live …
      </Button>
      <Button disabled={live.length === 0} loading={isBusy} onClick={() => void pause()}>
        Pause{of(live)}
      </Button>
      <Button onClick={() => open('tags')}>Tags …</Button>
      <Button onClick={() => open('copy')}>Copy to a type …</Button>
      <Button type="link" onClick={onClear}>
        Unmark all
      </Button>
      <ProblemNotice error={error} />
      {opened === 'live' ? <TakeLiveDialog rules={waiting} onClose={close} /> : null}
      {opened === 'tags' ? <TagsDialog all={rules} rules={marked} onClose={close} /> : null}
      {opened === 'copy' ? <CopyDialog model={model} rules={marked} onClose={close} /> : null}
    </section>
  );
}
