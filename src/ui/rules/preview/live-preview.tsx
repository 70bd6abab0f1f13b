'use client';

import { writeCount } from '@/core/values';
import { type Pilot, reacts } from '@/core/rules';
import type { Pace } from '@/core/model';
import type { LiveEffect, LivePreview, RuleView } from '@/core/api';
import { Button, Radio } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { happened } from '@/ui/kit/happened';
import { useState } from 'react';
import { callApi, callFile } from '@/ui/api/client';
import { saveFile } from '@/ui/kit/download';
import { useInvalidate, useLivePreview, useModel } from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { usePerson } from '@/ui/api/person';
import { counted } from '@/ui/kit/values/counted';
import { Effect } from './live-effect';
import { isPilotOnly, isTriedAsWritten } from '@/ui/rules/state-words';
import { OthersAct } from '@/ui/model/dialogs/others-act';
import { PilotChoice } from './pilot-choice';
import { ProofsSay } from './proofs-say';
import previewStyle from './preview.module.css';
import style from './live-preview.module.css';

/** What was done as a rule went live. */
interface TakenLive {
  readonly written: { readonly rule: string; readonly records: number }[];
  readonly made?: number;
  readonly proposed?: number;
}

function takenLiveWords(
  { written, made, proposed }: TakenLive,
  own: LiveEffect | undefined,
  isPilot: boolean,
): string {
  const state = isPilot ? 'A pilot.' : 'Live.';
  if (made !== undefined) return `${state} ${made} made, ${proposed ?? 0} proposed.`;
  if (own) return `${state} ${counted(written[0]?.records ?? 0, own.typeName, own.plural)} changed.`;
  return isPilot ? 'A pilot, from now on.' : 'Live, from now on.';
}

const told = (onClose: () => void) => () => {
  happened('takenLive');
  onClose();
};

/** What taking a rule live would change in the real data, before it is confirmed. */
export function LivePreviewDialog({ rule, onClose }: { rule: RuleView; onClose: () => void }) {
  const person = usePerson();
  const forget = useInvalidate();
  const model = useModel();
  // What is tried already is taken live for all; a change since goes on as it ran.
  const [pilot, setPilot] = useState<Pilot | null>(
    rule.hasChangesNotLive && !isTriedAsWritten(rule) ? (rule.pilot?.scope ?? null) : null,
  );
  const isChosen = pilot?.kind !== 'records' || pilot.ids.length > 0;
  const preview = useLivePreview(rule.id, pilot, isChosen);
  const { isBusy, error: problem, run } = useTask();
  const [isMatching, setMatching] = useState(false);
  const [othersAct, setOthersAct] = useState(false);
  const [reason, setReason] = useState('');
  const own = preview.data?.effects[0];
  const isReacting = reacts(rule.definition);
  const makes = preview.data?.makes ?? null;
  const isMaking =
    makes !== null && makes.made + makes.proposed > 0 && rule.definition.pace === 'withTheSave';
  const isFilling = own !== undefined && own.changed > 0 && (!isReacting || isMatching);
  const reacting = preview.data?.reacting ?? [];
  const proofs = preview.data?.proofs;
  const missed = proofs?.missed ?? [];
  const takeLive = async () => {
    const body = {
      state: 'live',
      ...(isMatching ? { actsOnMatching: true } : {}),
      ...(othersAct && reacting.length > 0 ? { othersAct: true } : {}),
      ...(missed.length > 0 ? { reason } : {}),
      ...(pilot ? { pilot } : {}),
    };
    const done = await callApi<TakenLive>(`/rules/${rule.id}/state`, {
      ...{ method: 'POST', body, person: person.id },
    });
    await forget.everything();
    return done;
  };
  const confirm = () => run(takeLive, (done) => takenLiveWords(done, own, pilot !== null), told(onClose));
  return (
    <Dialog
      open
      width={720}
      title={titleOf(rule)}
      okText={
        isFilling
          ? `${pilot ? 'Start the pilot' : 'Take it live'} and ${isReacting ? 'change' : 'fill'} ${counted(own.changed, own.typeName, own.plural)}`
          : pilot
            ? 'Start the pilot'
            : 'Take it live'
      }
      okButtonProps={{
        disabled: !preview.data || !isChosen || (missed.length > 0 && reason.trim() === ''),
        loading: isBusy,
      }}
      cancelText="Not now"
      onOk={() => void confirm()}
      onCancel={onClose}
    >
      {model ? (
        <PilotChoice
          {...{ model, pilot }}
          definition={rule.definition}
          isBeside={rule.state === 'live' && !isPilotOnly(rule)}
          onChange={setPilot}
        />
      ) : null}
      <ProblemNotice error={(isChosen ? preview.error : null) ?? problem} />
      {proofs ? <ProofsSay proofs={proofs} reason={reason} onReason={setReason} /> : null}
      {(own && isReacting) || isMaking ? (
        <Radio.Group
          className={style.liveMatching}
          aria-label="On which records it acts"
          value={isMatching}
          orientation="vertical"
          onChange={(event) => setMatching(event.target.value as boolean)}
          options={[
            {
              value: false,
              label: makes
                ? 'Only for what comes to meet its condition from now on'
                : rule.definition.kind === 'cascade'
                  ? 'Only on what comes from now on'
                  : 'Only on what comes from now on: when its result changes',
            },
            { value: true, label: 'Also at once, on the records that match already' },
          ]}
        />
      ) : null}
      {makes ? <WouldMake makes={makes} isIfMatching={!isMatching} pace={rule.definition.pace} /> : null}
      {preview.data?.actsProblem ? (
        <p>It can’t act at once on the records that match already: {preview.data.actsProblem}</p>
      ) : null}
      {(preview.data?.alsoMade ?? []).map(({ rule: by, name, plural, made }) => (
        <p key={by.id} className={previewStyle.effectCount}>
          Then also: <strong>{`${counted(made, name, plural)} would be made`}</strong>.{' '}
          <span className="quiet">By “{by.name}”.</span>
        </p>
      ))}
      {preview.data?.effects.length === 0 && !makes ? <FromNowOn /> : null}
      {preview.data ? (
        preview.data.effects.map((effect, index) => (
          <Effect
            key={effect.rule.id}
            effect={effect}
            isFollowing={index > 0}
            isIfMatching={isReacting && !isMatching}
          />
        ))
      ) : preview.error ? null : isChosen ? (
        <Loading what="what would change" />
      ) : (
        <p>Choose for which records it runs, to see what would change.</p>
      )}
      {isFilling ? <OthersAct reacting={reacting} isChosen={othersAct} onChoose={setOthersAct} /> : null}
      {preview.data && isAnything(preview.data) ? <AllAsFile rule={rule.id} pilot={pilot} /> : null}
    </Dialog>
  );
}

const titleOf = ({ pilot, state }: RuleView): string =>
  pilot ? 'From a pilot to live' : state === 'live' ? 'Take the change live' : 'Take the rule live';

const FromNowOn = () => (
  <p>
    It cascades what comes from now on. Records that are there stay as they are; try it on the bench, or in
    the worked example, to see what a change would do.
  </p>
);

const isAnything = ({ effects, makes }: LivePreview): boolean =>
  effects.some(({ changed }) => changed > 0) || (makes !== null && makes.made + makes.proposed > 0);

/** Everything that would change, value by value, to be checked elsewhere. */
function AllAsFile({ rule, pilot }: { rule: string; pilot: Pilot | null }) {
  const { run, isBusy, error } = useTask();
  const save = () =>
    run(
      () => callFile(`/rules/${rule}/preview/changes`, { pilot }),
      null,
      (file) => saveFile(file, 'changes.csv'),
    );
  return (
    <div className={style.effectFile}>
      <Button loading={isBusy} onClick={() => void save()}>
        All changes as CSV
      </Button>
      <ProblemNotice error={error} />
    </div>
  );
}

/** What a rule that makes records would make at once. */
function WouldMake({
  makes: { name, plural, made, proposed, titles },
  isIfMatching,
  pace,
}: {
  makes: NonNullable<LivePreview['makes']>;
  isIfMatching: boolean;
  pace: Pace;
}) {
  const all = made + proposed;
  const more = all - titles.length;
  if (all === 0)
    return (
      <p>No record meets its condition now without having its {name}: it makes what comes from now on.</p>
    );
  return (
    <section className={previewStyle.effect} aria-label={`${plural} that would be made`}>
      <p className={previewStyle.effectCount}>
        {pace === 'withTheSave'
          ? isIfMatching
            ? 'If it acted at once: '
            : ''
          : 'When its time comes, or a person asks: '}
        <strong>
          {made > 0 ? `${counted(made, name, plural)} would be made` : ''}
          {made > 0 && proposed > 0 ? ', ' : ''}
          {proposed > 0 ? `${counted(proposed, name, plural)} proposed` : ''}
        </strong>
        .
      </p>
      <p className="quiet">
        {titles.join(' · ')}
        {more > 0 ? ` · and ${writeCount(more)} more` : ''}
      </p>
    </section>
  );
}
