'use client';

import { certain } from '@/core/values';
import { type LaterView, type RuleView } from '@/core/api';
import { App, Button, Tooltip } from 'antd';
import { ButtonLink, useRouter } from '@/ui/kit/navigation';
import { callApi } from '@/ui/api/client';
import { isLiveForAll, useProofStandings } from '@/ui/api/queries';
import { counted } from '@/ui/kit/values/counted';
import { when } from '@/ui/kit/values/when';
import { useSaveKey } from '@/ui/kit/hooks/use-save-key';
import { benchPath } from '@/ui/kit/paths';
import style from './rule-actions.module.css';
import { MayButton } from '@/ui/kit/may-button';

export interface Saving {
  readonly isBusy: boolean;
  readonly problem: Error | null;
  readonly run: <T>(work: (person: string | null) => Promise<T>) => Promise<T | undefined>;
  readonly save: () => Promise<RuleView | undefined>;
}

interface ActionProps {
  readonly rule: RuleView | null;
  readonly canSave: boolean;
  readonly isChanged: boolean;
  readonly hasProblems: boolean;
  readonly saving: Saving;
  readonly onPreview: () => void;
  /** Keeps it as far as it is written; left out where it can be saved, or nothing is written. */
  readonly onKeep?: () => void;
}

export function RuleActions(props: ActionProps) {
  const { rule, canSave, isChanged, hasProblems, saving, onPreview, onKeep } = props;
  const { message, modal } = App.useApp();
  const router = useRouter();
  const isLiveAsIs = rule !== null && isLiveForAll(rule);
  const standings = useProofStandings();
  const proofs = standings.data?.rules.find((one) => one.rule === rule?.id)?.proofs ?? 0;
  const goesAlong =
    proofs === 0 ? '' : `Its ${proofs === 1 ? 'proof goes' : `${proofs} proofs go`} with it. `;
  const setState = (state: 'paused' | 'retired' | 'live', how: { readonly endsPilot?: true } = {}) =>
    saving.run((person) =>
      callApi(`/rules/${certain(rule).id}/state`, { method: 'POST', body: { state, ...how }, person }),
    );
  const remove = () =>
    modal.confirm({
      title: 'Delete this draft?',
      content: `It was never live, so no record changes. ${goesAlong}It can’t be brought back.`,
      okText: 'Delete the draft',
      okButtonProps: { danger: true },
      onOk: async () => {
        await saving.run((person) => callApi(`/rules/${certain(rule).id}`, { method: 'DELETE', person }));
        router.push('/rules');
      },
    });
  const save = () => void saving.save().then((done) => done && message.success('Saved.'));
  useSaveKey(canSave && !saving.isBusy ? save : null);
  const why = isChanged
    ? 'Save your changes first.'
    : hasProblems
      ? 'Put right what is found below the sentence first.'
      : null;
  return (
    <div className="place-actions">
      {rule?.state === 'draft' ? (
        <MayButton right="writeRules" type="text" danger onClick={remove}>
          Delete
        </MayButton>
      ) : null}
      {rule ? <ButtonLink href={benchPath(rule)}>Try on the bench</ButtonLink> : null}
      {rule?.state === 'paused' ? (
        <MayButton
          right="takeLive"
          type="text"
          loading={saving.isBusy}
          onClick={() =>
            void setState('retired').then(
              (done) =>
                done && message.success('Retired. It stands below the list of rules, and can be taken back.'),
            )
          }
        >
          Retire
        </MayButton>
      ) : null}
      {rule?.pilot?.tried ? (
        <MayButton
          right="takeLive"
          loading={saving.isBusy}
          onClick={() =>
            void setState('live', { endsPilot: true }).then(
              (done) =>
                done &&
                message.success('The pilot ended. The rule runs for all as it is live; the change waits.'),
            )
          }
        >
          End the pilot
        </MayButton>
      ) : null}
      {rule?.state === 'live' ? (
        <MayButton
          right="takeLive"
          loading={saving.isBusy}
          onClick={() =>
            void setState('paused').then((done) => done && message.success('Paused. Its values stand still.'))
          }
        >
          Pause
        </MayButton>
      ) : null}
      {onKeep ? (
        <Tooltip title="It stands under the rules, for whoever goes on with it.">
          <MayButton right="writeRules" loading={saving.isBusy} onClick={onKeep}>
            Keep it unfinished
          </MayButton>
        </Tooltip>
      ) : null}
      <MayButton
        right="writeRules"
        type={rule && !isChanged ? 'default' : 'primary'}
        disabled={!canSave}
        loading={saving.isBusy}
        onClick={save}
      >
        {rule ? 'Save' : 'Save as draft'}
      </MayButton>
      {rule && !isLiveAsIs ? (
        <Tooltip title={why}>
          <MayButton
            right="writeRules"
            type={isChanged ? 'default' : 'primary'}
            disabled={why !== null}
            onClick={onPreview}
          >
            {rule.pilot
              ? 'From pilot to live …'
              : rule.state === 'live'
                ? 'Take the change live …'
                : 'Take it live …'}
          </MayButton>
        </Tooltip>
      ) : null}
    </div>
  );
}

/** What waits for the pace of a live rule, and a way to have it now. */
export function LaterNote({ rule, later, saving }: { rule: RuleView; later: LaterView; saving: Saving }) {
  const { message } = App.useApp();
  const { values, since, next, problem } = later;
  const many =
    values === null
      ? 'All its values, or many of them, wait'
      : `${counted(values, 'value', 'values')} wait${values === 1 ? 's' : ''}`;
  const bring = () =>
    saving.run((person) =>
      callApi<{ values: number }>(`/rules/${rule.id}/recalculations`, { method: 'POST', person }),
    );
  return (
    <div className={style.ruleLater} aria-live="polite">
      <p className="quiet">
        {since ? `${many}, since ${when(since)}.` : 'All its values are up to date.'}
        {next ? ` Its time comes round next on ${when(next)}.` : ''}
      </p>
      {problem ? <p className="finding">They couldn’t be brought up to date: {problem}</p> : null}
      {since ? (
        <Button
          size="small"
          loading={saving.isBusy}
          onClick={() =>
            void bring().then(
              (done) => done && message.success(`${counted(done.values, 'value', 'values')} changed.`),
            )
          }
        >
          Work them out now
        </Button>
      ) : null}
    </div>
  );
}
