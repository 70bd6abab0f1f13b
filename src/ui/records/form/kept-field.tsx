'use client';

import { type Field, fieldIn, type Model } from '@/core/model';
import { paceWords } from '@/core/rules';
import { displayValue } from '@/core/values';
import { problemWords, type WireRecord } from '@/core/verify';
import { type KeeperView } from '@/core/api';
import { MayButton } from '@/ui/kit/may-button';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { callApi } from '@/ui/api/client';
import { useInvalidate } from '@/ui/api/queries';
import { when } from '@/ui/kit/values/when';
import { usePerson } from '@/ui/api/person';
import { RuleMark } from './rule-mark';
import { wordsFor } from '@/ui/records/words';
import { clsx } from 'clsx';
import formStyle from './form.module.css';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './kept-field.module.css';

export interface KeptProps {
  readonly model: Model;
  readonly field: Field;
  readonly keeper: KeeperView;
  readonly record: WireRecord;
  readonly names: Readonly<Record<string, string>>;
  /** The moment that its value is of, where that isn't now. */
  readonly asOf: string | null;
  readonly onOpen: () => void;
}

/** A field that a rule keeps: read-only, with its rule; its value opens into what it is made of. */
export function KeptField({ model, field, keeper, record, names, asOf, onOpen }: KeptProps) {
  const error = record.errors[field.key];
  return (
    <div className={formStyle.recordField} role="group" aria-label={field.name}>
      <span className={formStyle.recordLabel}>
        {field.name}
        <RuleMark field={field.name} rule={keeper.rule} does={keptWords(keeper)} />
      </span>
      <button
        type="button"
        className={clsx('plain', style.keptValue)}
        aria-label={`${field.name}: ${wordsFor(field, record.values[field.key], names)}. Open what it is made of`}
        onClick={onOpen}
      >
        {error ? (
          <span className={kitStyle.problemWord}>can’t be worked out</span>
        ) : (
          wordsFor(field, record.values[field.key], names)
        )}
        <span className={style.keptOpen}>what is in it</span>
      </button>
      {asOf ? (
        <AsOf {...{ field, record, asOf }} />
      ) : keeper.asOf ? (
        <p className={style.keptAsOf}>
          as of {displayValue({ kind: 'date' }, keeper.asOf)}; later days aren’t settled yet
        </p>
      ) : null}
      {error ? <p className={formStyle.fieldProblem}>{problemWords(error)}</p> : null}
      {keeper.pace === 'withTheSave' ? null : (
        <p className={style.keptAsOf}>
          {paceWords(keeper.pace, (key) => fieldIn(model, keeper.type, key).name)}
        </p>
      )}
    </div>
  );
}

const keptWords = ({ isInStep }: KeeperView): string => (isInStep ? 'keeps this in step.' : 'keeps this.');

/** A value that waits for its rule's pace: the moment that it is of, and a way to have it now. */
function AsOf({ field, record, asOf }: Pick<KeptProps, 'field' | 'record'> & { readonly asOf: string }) {
  const person = usePerson();
  const forget = useInvalidate();
  const { isBusy, error, run } = useTask();
  const workOut = () =>
    run(
      async () => {
        const path = `/records/${record.type}/${record.id}/recalculations/${field.key}`;
        await callApi(path, { method: 'POST', person: person.id });
        await forget.records();
      },
      () => `${field.name} is up to date.`,
    );
  return (
    <p className={style.keptAsOf}>
      as of <time dateTime={asOf}>{when(asOf)}</time>; something in it has changed since.{' '}
      <MayButton right="edit" size="small" loading={isBusy} onClick={() => void workOut()}>
        Work it out now
      </MayButton>
      <ProblemNotice error={error} />
    </p>
  );
}
