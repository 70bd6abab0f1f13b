'use client';

import { certain, writeCount } from '@/core/values';
import type { ModelRehearsal, SelectionEffect, StepView } from '@/core/api';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import style from './would-do.module.css';

const records = (of: number): string => `${writeCount(of)} ${of === 1 ? 'record' : 'records'}`;
const values = (of: number): string => `${writeCount(of)} stored ${of === 1 ? 'value' : 'values'}`;

/** What a change of the model would do to what is stored and to the rules, before it is done. */
export function WouldDo({
  rehearsal,
  error,
  isCurrent,
}: {
  rehearsal: ModelRehearsal | null;
  error: Error | null;
  isCurrent: boolean;
}) {
  if (error) return <ProblemNotice error={error} />;
  if (!rehearsal) return null;
  const { steps, blocked, unreadable, selections, touched, again } = rehearsal;
  const problems = [...rehearsal.problems, ...unreadable];
  return (
    <section className={style.would} aria-label="What it would do" aria-busy={!isCurrent} aria-live="polite">
      <h3>What it would do</h3>
      <ul>
        {problems.map((problem) => (
          <li key={problem.message} className={style.wouldWrong}>
            {problem.message}
          </li>
        ))}
        {steps.map((step) => (
          <li
            key={`${step.kind} ${step.type} ${step.field}`}
            className={step.refusal ? style.wouldWrong : ''}
          >
            {step.refusal ? step.refusal.message : stepWords(step)}
            <Samples step={step} />
          </li>
        ))}
        {selections.map((selection) => (
          <li key={selection.key}>{selectionWords(selection)}</li>
        ))}
        {blocked.map(({ rule, problems: [first] }) => (
          <li key={rule.id} className={style.wouldWrong}>
            The rule “{rule.name}” ({rule.state}) couldn’t stand afterwards: {first?.message} Change or remove
            it first.
          </li>
        ))}
        {touched.map((rule) => (
          <li key={rule.id}>
            {rule.before === rule.after ? (
              <>The rule “{rule.name}” stands as it is.</>
            ) : (
              <>
                The rule “{rule.name}” follows: <q>{rule.after}</q>
              </>
            )}
          </li>
        ))}
        {again.length > 0 ? (
          <li>
            {again.length === 1 ? 'One live rule is' : `${writeCount(again.length)} live rules are`} worked
            out again for every record.
          </li>
        ) : null}
        {problems.length +
          steps.length +
          selections.length +
          blocked.length +
          touched.length +
          again.length ===
        0 ? (
          <li>
            Nothing that is stored changes, and no rule: only names, texts of help, or how things are
            arranged.
          </li>
        ) : null}
      </ul>
    </section>
  );
}

function selectionWords({ name, plural, before, after }: SelectionEffect): string {
  if (before === null)
    return `“${name}” would have ${writeCount(certain(after))} ${plural.toLowerCase()} now.`;
  if (after === null)
    return `Removes “${name}”, which has ${writeCount(before)} ${plural.toLowerCase()} now.`;
  if (before === after)
    return `“${name}” has ${writeCount(before)} ${plural.toLowerCase()} before and after.`;
  return `“${name}” has ${writeCount(before)} ${plural.toLowerCase()} now, and would have ${writeCount(after)}.`;
}

function stepWords({ kind, name, typeName, stored, altered, lost }: StepView): string {
  switch (kind) {
    case 'addType':
      return `Makes the type ${name}, with no records yet.`;
    case 'removeType':
      return stored === 0
        ? `Removes the type ${name}, of which there are no records.`
        : `Removes the type ${name} with its ${records(stored)}. They can’t be brought back.`;
    case 'addField':
      return stored === 0
        ? `Adds ${name} to ${typeName}; it is empty in records that are there.`
        : `Adds ${name} to ${typeName}, and fills it in ${records(stored)} that ${stored === 1 ? 'is' : 'are'} there.`;
    case 'openLink':
      return `${name} of ${typeName} becomes an open link by its links, or stops being one; every stored link stays as it is.`;
    case 'removeField':
      return stored === 0
        ? `Removes ${name} of ${typeName}, which is empty everywhere.`
        : `Removes ${name} of ${typeName} with its ${values(stored)}. They can’t be brought back.`;
    case 'changeField':
      return changeWords(name, { stored, altered, lost });
  }
}

function changeWords(
  name: string,
  { stored, altered, lost }: { stored: number; altered: number; lost: number },
) {
  if (altered + lost === 0) return `Changes ${name}; every stored value stays as it is.`;
  const parts = [
    ...(altered > 0 ? [`${writeCount(altered)} come out otherwise`] : []),
    ...(lost > 0 ? [`${writeCount(lost)} would be lost (the history keeps them)`] : []),
  ];
  return `Changes ${name}: of ${values(stored)} ${parts.join(', ')}.`;
}

function Samples({ step }: { step: StepView }) {
  if (step.samples.length === 0) return null;
  return (
    <ul>
      {step.samples.map(({ before, after, records: count }) => (
        <li key={before}>
          <s className="quiet">{before}</s> → {after} <span className="quiet">in {records(count)}</span>
        </li>
      ))}
    </ul>
  );
}
