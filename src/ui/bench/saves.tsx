'use client';

import type { Rehearsal } from '@/core/verify';
import { ProblemNotice } from '../kit/problem-notice';
import { Ripple } from '../kit/ripple';
import type { Rehearsed } from '../workers/workshop';
import type { Step } from './steps';

interface SavesProps {
  readonly data: Rehearsed;
  readonly steps: readonly Step[];
  readonly onMark: (cells: ReadonlySet<string>) => void;
}

/** What follows, save by save. */
export function Saves({ data: { rehearsals }, steps, onMark }: SavesProps) {
  if (rehearsals.length === 1)
    return <Waves rehearsal={rehearsals[0]!} isFirst onMark={onMark} hasSteps={steps.length > 0} />;
  return rehearsals.map((rehearsal, at) => (
    <section key={at} aria-label={`Save ${at + 1}`}>
      <h3 className="bench-save">{`Save ${at + 1}`}</h3>
      <Waves rehearsal={rehearsal} isFirst={at === 0} onMark={onMark} hasSteps />
    </section>
  ));
}

function Waves({
  rehearsal,
  isFirst,
  onMark,
  hasSteps,
}: {
  rehearsal: Rehearsal;
  /** What taking drafts live does is told with the first save only. */
  isFirst: boolean;
  onMark: (cells: ReadonlySet<string>) => void;
  hasSteps: boolean;
}) {
  if (rehearsal.kind === 'refused') {
    return (
      <>
        <p className="bench-refused">This would be refused; nothing of it would be saved:</p>
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
        <p className="quiet bench-note">The drafts would change nothing in this family as it stands.</p>
      ) : null}
      {hasSteps ? (
        <>
          <Ripple ripple={ripple} onMark={onMark} />
          {follows === 0 && ripple.waves.length > 0 ? (
            <p className="quiet bench-note">No rule follows from this.</p>
          ) : null}
        </>
      ) : (
        <div className="nothing">
          <strong>Change something in the family</strong>
          Press a value and enter another. What follows from it stands here, wave by wave, with its cause.
          Nothing is saved.
        </div>
      )}
    </>
  );
}
