'use client';

import { type WireValue, writeCount } from '@/core/values';
import { type WireRecord } from '@/core/verify';
import { type RecordView, type SavedRun } from '@/core/api';
import { useState } from 'react';
import { useTask } from '@/ui/kit/hooks/use-task';
import { ApiProblem, callApi } from '@/ui/api/client';
import { useInvalidate } from '@/ui/api/queries';
import { usePerson } from '@/ui/api/person';

export type Entered = Readonly<Record<string, WireValue>>;

interface Save {
  readonly isBusy: boolean;
  readonly problem: Error | null;
  /** Very many records would follow: what is said of it, and what would be saved. */
  readonly many: { readonly message: string; readonly values: Entered } | null;
  readonly clear: () => void;
  readonly goBack: () => void;
  readonly save: (values: Entered, when?: 'ask' | 'now' | 'soonAfter') => Promise<void>;
}

export function useSave(
  record: WireRecord,
  onSaved: () => void,
  onConflict: (current: RecordView) => void,
): Save {
  const person = usePerson();
  const forget = useInvalidate();
  const task = useTask();
  const path = `/records/${record.type}/${record.id}`;
  const [many, setMany] = useState<Save['many']>(null);
  const send = async (values: Entered, when: 'ask' | 'now' | 'soonAfter') => {
    const body = { version: record.version, values, many: when };
    try {
      const saved = await callApi<SavedRun | { readonly queued: string }>(path, {
        ...{ method: 'PATCH', body, person: person.id, isBrief: true },
      });
      await forget.records();
      setMany(null);
      return saved;
    } catch (error) {
      const code = error instanceof ApiProblem ? error.code : null;
      setMany(code === 'save.many' ? { message: (error as Error).message, values } : null);
      if (code === 'edit.version') onConflict(await callApi<RecordView>(path));
      throw error;
    }
  };
  const save: Save['save'] = async (values, when = 'ask') => {
    await task.run(
      () => send(values, when),
      (saved) =>
        'queued' in saved ? 'It is saved soon after. Until then it waits in Today.' : savedWords(saved),
      onSaved,
    );
  };
  const problem = many === null ? task.error : null;
  const { isBusy, clear } = task;
  const goBack = () => {
    setMany(null);
    clear();
  };
  return { isBusy, problem, many, save, clear, goBack };
}

/** `Saved. It followed: Insured total of Rivers of Silk is now 12,250.00 GBP.` */
export function savedWords({ ripple }: SavedRun): string {
  const { proposals } = ripple;
  const told =
    proposals.length === 0
      ? ''
      : ` ${proposals.length === 1 ? 'One entry stands' : `${proposals.length} entries stand`} in Today.`;
  return `${followedWords(ripple)}${told}`;
}

function followedWords(ripple: SavedRun['ripple']): string {
  const followed = ripple.waves.filter(({ number }) => number > 0).flatMap(({ changes }) => changes);
  const [first] = followed;
  const [later] = ripple.later;
  const all = ripple.many
    .map(({ fieldName, plural, records }) => ` ${fieldName} of ${writeCount(records)} ${plural} followed.`)
    .join('');
  const waits = later ? ` ${later.fieldName} of ${later.title} waits: ${later.rule.pace}.` : '';
  if (!first) return `Saved.${all}${waits}`;
  const rest = followed.length > 1 ? `, and ${followed.length - 1} more` : '';
  if (first.kind !== 'field')
    return `Saved. It followed: ${first.typeName} “${first.title}” is ${first.kind}${rest}.${all}${waits}`;
  return `Saved. It followed: ${first.fieldName} of ${first.title} is now ${first.problem ? 'empty, with a problem' : first.after?.text}${rest}.${all}${waits}`;
}
