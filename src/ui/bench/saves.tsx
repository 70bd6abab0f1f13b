'use client';

import { displayValue, firstIn } from '@/core/values';
import { type Rehearsal, type RippleView, runScheduleOf } from '@/core/verify';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { Ripple } from '@/ui/kit/explain/ripple';
import { saveId } from './proof/proof-opened';
import type { Rehearsed, Staged, RuleWorkerSetup } from '@/ui/workers/rule-worker';
import type { Step } from './steps/steps';
import { clsx } from 'clsx';
import benchStyle from './bench.module.css';
import style from './saves.module.css';

interface SavesProps {
  readonly data: Rehearsed;
  readonly steps: readonly Step[];
  readonly staged: Staged;
  readonly setup: RuleWorkerSetup;
  readonly onMark: (cells: ReadonlySet<string>) => void;
}

/** What follows, save by save; with the day and who acts, where either is another than at first. */
export function Saves({ data: { rehearsals }, steps, staged, setup, onMark }: SavesProps) {
  const headings = headingsOf(rehearsals.length, staged, setup);
  if (rehearsals.length === 1 && headings[0] === 'Save 1')
    return <Waves rehearsal={firstIn(rehearsals)} isFirst onMark={onMark} hasSteps={steps.length > 0} />;
  return rehearsals.map((rehearsal, at) => (
    <section key={at} id={saveId(at)} tabIndex={-1} aria-label={`Save ${at + 1}`}>
      <h3 className={style.benchSave}>{headings[at]}</h3>
      {rehearsal.turned ? <Turned ripple={rehearsal.turned} onMark={onMark} /> : null}
      <Waves
        {...{ rehearsal, onMark }}
        isFirst={at === 0}
        hasSteps={staged.runs[at] === undefined || staged.runs[at].length > 0}
        isOfDay={rehearsal.turned !== null}
      />
    </section>
  ));
}

/** `Save 2, on 4 Jun 2027, by Farid Benhaddou`. Who acts in a proof from the beginning isn't told. */
function headingsOf(count: number, { settings }: Staged, { settledDay, person, people }: RuleWorkerSetup) {
  let day = settledDay;
  let actor = person;
  return runScheduleOf(count, settledDay, [{ run: 0, person }, ...settings]).map((point, at) => {
    const { person: acts } = point.facts;
    const words = [
      `Save ${at + 1}`,
      ...(point.day === day ? [] : [`on ${displayValue({ kind: 'date' }, point.day)}`]),
      ...(actor === null || acts === null || acts === actor ? [] : [`by ${people[acts] ?? 'somebody'}`]),
    ];
    [day, actor] = [point.day, acts];
    return words.join(', ');
  });
}

/** What a day brings before anybody does something on it. */
function Turned({ ripple, onMark }: { ripple: RippleView; onMark: SavesProps['onMark'] }) {
  return ripple.waves.length > 0 ? (
    <Ripple ripple={ripple} onMark={onMark} heading="As the day turns" />
  ) : (
    <p className={clsx('quiet', benchStyle.benchNote)}>Nothing in this family hangs on the day that turns.</p>
  );
}

function Waves({
  rehearsal,
  isFirst,
  onMark,
  hasSteps,
  isOfDay = false,
}: {
  /** Its day alone brought something. */
  isOfDay?: boolean;
  rehearsal: Rehearsal;
  /** What taking drafts live does is told with the first save only. */
  isFirst: boolean;
  onMark: (cells: ReadonlySet<string>) => void;
  hasSteps: boolean;
}) {
  if (rehearsal.kind === 'refused') {
    return (
      <>
        <p className={style.benchRefused}>This would be refused; nothing of it would be saved:</p>
        <ProblemNotice error={new Error(rehearsal.edits.map(({ message }) => message).join(' '))} />
      </>
    );
  }
  if (rehearsal.kind === 'unsound')
    return (
      <ProblemNotice
        error={new Error([...new Set(rehearsal.rules.map(({ message }) => message))].join(' '))}
      />
    );
  const { ripple } = rehearsal;
  const filled = isFirst ? rehearsal.filled : null;
  const follows = ripple.waves.filter(({ number }) => number > 0).length;
  return (
    <>
      {filled && filled.waves.length > 0 ? (
        <Ripple ripple={filled} onMark={onMark} heading="Taking the drafts live" />
      ) : null}
      {filled && filled.waves.length === 0 ? (
        <p className={clsx('quiet', benchStyle.benchNote)}>
          The drafts would change nothing in this family as it stands.
        </p>
      ) : null}
      {hasSteps ? (
        <>
          <Ripple ripple={ripple} onMark={onMark} />
          {follows === 0 && ripple.waves.length > 0 ? (
            <p className={clsx('quiet', benchStyle.benchNote)}>No rule follows from this.</p>
          ) : null}
        </>
      ) : isOfDay ? null : (
        <NothingStaged />
      )}
    </>
  );
}

/** What there is to do first. */
export const NothingStaged = () => (
  <div className="nothing">
    <strong>Change something in the family</strong>
    Press a value and enter another. What follows from it stands here, wave by wave, with its cause. Nothing
    is saved.
  </div>
);
