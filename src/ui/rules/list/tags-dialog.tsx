'use client';

import type { RuleView } from '@/core/api';
import { Select } from 'antd';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { usePerson } from '@/ui/api/person';
import { useInvalidate } from '@/ui/api/queries';
import { Dialog } from '@/ui/kit/dialog';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { counted } from '@/ui/kit/values/counted';
import { tagsOf } from './rule-list-model';
import style from './tags-dialog.module.css';

export interface TagsDialogProps {
  /** Whose tags are offered. */
  readonly all: readonly RuleView[];
  readonly rules: readonly RuleView[];
  readonly onClose: () => void;
}

/** Gives the marked rules tags, and takes some from them. */
export function TagsDialog({ all, rules, onClose }: TagsDialogProps) {
  const person = usePerson();
  const forget = useInvalidate();
  const { isBusy, error, run } = useTask();
  const [add, setAdd] = useState<readonly string[]>([]);
  const [remove, setRemove] = useState<readonly string[]>([]);
  const had = tagsOf(rules);
  const save = () =>
    run(
      async () => {
        const body = { rules: rules.map(({ id }) => id), add, remove };
        await callApi('/rule-tags', { method: 'POST', person: person.id, body });
        await forget.everything();
      },
      () => 'Saved.',
      onClose,
    );
  const labels = (tags: ReturnType<typeof tagsOf>) => tags.map(({ label }) => ({ value: label, label }));
  return (
    <Dialog
      open
      title={`Tags of ${counted(rules.length, 'rule', 'rules')}`}
      okText="Save"
      okButtonProps={{ disabled: add.length + remove.length === 0, loading: isBusy }}
      cancelText="Not now"
      onOk={() => void save()}
      onCancel={onClose}
    >
      <ProblemNotice error={error} />
      <label className={style.part}>
        Give {rules.length === 1 ? 'it' : 'all of them'}
        <Select
          mode="tags"
          autoFocus
          aria-label="Tags to give"
          placeholder="Type a tag and press Enter, or choose one"
          maxCount={20}
          tokenSeparators={[',', ';']}
          value={[...add]}
          options={labels(tagsOf(all))}
          onChange={(tags: string[]) =>
            setAdd(tags.map((tag) => tag.trim().slice(0, 40)).filter((tag) => tag !== ''))
          }
        />
      </label>
      {had.length > 0 ? (
        <label className={style.part}>
          Take away
          <Select
            mode="multiple"
            aria-label="Tags to take away"
            placeholder="None"
            value={[...remove]}
            options={labels(had)}
            onChange={setRemove}
          />
        </label>
      ) : null}
      <p className="quiet">
        Rules can be narrowed to a tag, and put together by tags. Tags change no record.
      </p>
    </Dialog>
  );
}
