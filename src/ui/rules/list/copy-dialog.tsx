'use client';

import { ruleOnType } from '@/core/rules';
import { article } from '@/core/article';
import { type Model, typeIn } from '@/core/model';
import type { RuleView } from '@/core/api';
import { Select } from 'antd';
import { useMemo, useState } from 'react';
import { callApi } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import { useInvalidate } from '@/ui/api/queries';
import { Dialog } from '@/ui/kit/dialog';
import { Link } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { counted } from '@/ui/kit/values/counted';
import style from './copy-dialog.module.css';

export interface CopyDialogProps {
  readonly model: Model;
  readonly rules: readonly RuleView[];
  readonly onClose: () => void;
}

/** Copies rules to another type, as drafts: what fits there as it is at once, the others to be put right in their sentence. */
export function CopyDialog({ model, rules, onClose }: CopyDialogProps) {
  const person = usePerson();
  const forget = useInvalidate();
  const { isBusy, error, run } = useTask();
  const [type, setType] = useState<string | null>(null);
  const copies = useMemo(
    () =>
      type === null ? [] : rules.map((rule) => ({ rule, copy: ruleOnType(model, rule.definition, type) })),
    [model, rules, type],
  );
  const fitting = copies.filter(({ copy }) => copy.problems.length === 0);
  const copy = () =>
    run(
      async () => {
        for (const { rule, copy: made } of fitting)
          await callApi('/rules', {
            ...{ method: 'POST', person: person.id },
            body: { definition: made.definition, note: rule.note, tags: rule.tags },
          });
        await forget.everything();
      },
      () => `${counted(fitting.length, 'draft', 'drafts')} made. A draft changes nothing.`,
      onClose,
    );
  return (
    <Dialog
      open
      width={640}
      title={`Copy ${rules.length === 1 ? `“${rules[0]?.name}”` : counted(rules.length, 'rule', 'rules')} to a type`}
      okText={fitting.length > 0 ? `Make ${counted(fitting.length, 'draft', 'drafts')}` : 'Make drafts'}
      okButtonProps={{ disabled: fitting.length === 0, loading: isBusy }}
      cancelText="Not now"
      onOk={() => void copy()}
      onCancel={onClose}
    >
      <ProblemNotice error={error} />
      <label className={style.type}>
        To every
        <Select
          showSearch={{ optionFilterProp: 'label' }}
          aria-label="Type of record"
          placeholder="type of record"
          value={type}
          options={model.types.map(({ key, name }) => ({ value: key, label: name }))}
          onChange={setType}
        />
      </label>
      <ul className={style.copies}>
        {copies.map(({ rule, copy: { problems } }) => (
          <li key={rule.id}>
            <strong>{rule.name}</strong>{' '}
            {problems.length === 0 ? (
              <span className="quiet">fits as it is</span>
            ) : (
              <>
                <span>doesn’t fit {typeIn(model, type ?? '').name} as it is:</span>
                <span className={style.why}>{problems[0]?.message}</span>
                <Link href={`/rules/new?copy=${rule.id}&type=${type}`}>Put it right in the sentence</Link>
              </>
            )}
          </li>
        ))}
      </ul>
      {type === null ? (
        <p className="quiet">
          A rule is copied over the link that leads to the same records from there, and to fields of the same
          names. It comes as a draft: it changes nothing.
        </p>
      ) : fitting.length === 0 ? (
        <p>
          None of them fits {article(typeIn(model, type).name)} {typeIn(model, type).name} as it is.
        </p>
      ) : null}
    </Dialog>
  );
}
