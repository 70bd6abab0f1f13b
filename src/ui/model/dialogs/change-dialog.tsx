'use client';

import type { ModelChange } from '@/core/model';
import { MayButton } from '@/ui/kit/may-button';
import { useWhyNot } from '@/ui/api/may';
import { Dialog } from '@/ui/kit/dialog';
import { type ReactNode, useState } from 'react';
import { OthersAct } from './others-act';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useApplyChanges, useModelRehearsal } from './use-changes';
import { WouldDo } from './would-do';

export interface ChangeDialogProps {
  readonly title: string;
  /** What the form comes to; `null` while it isn't enough yet. */
  readonly changes: readonly ModelChange[] | null;
  readonly version: number;
  readonly apply: string;
  readonly isDanger?: boolean;
  readonly done: string;
  readonly onClose: () => void;
  readonly onDone?: () => void;
  /** Begins another once it is done; left out where there is no other. */
  readonly onAnother?: () => void;
  readonly children?: ReactNode;
}

/** A change of the model: its form, and beneath it what that would do, worked out as it is written. Nothing changes before Apply. */
export function ChangeDialog(props: ChangeDialogProps) {
  const {
    title,
    changes,
    version,
    apply: label,
    isDanger = false,
    done,
    onClose,
    onDone,
    onAnother,
    children,
  } = props;
  const { apply, isBusy, error: refused } = useApplyChanges(version);
  const { rehearsal, error, isCurrent } = useModelRehearsal(changes, isBusy);
  const isReady = changes !== null && isCurrent && (rehearsal?.isPossible ?? false);
  const [othersAct, setOthersAct] = useState(false);
  const reacting = rehearsal?.reacting ?? [];
  const whyNot = useWhyNot('administer');
  const submit = async (next: () => void) => {
    if (!isReady || !(await apply(changes, done, othersAct && reacting.length > 0))) return;
    onDone?.();
    next();
  };
  return (
    <Dialog
      open
      title={title}
      width={640}
      okText={label}
      okButtonProps={{ disabled: !isReady || whyNot !== null, danger: isDanger, title: whyNot ?? undefined }}
      confirmLoading={isBusy}
      onOk={() => void submit(onClose)}
      footer={(_, { OkBtn, CancelBtn }) => (
        <>
          <CancelBtn />
          {onAnother ? (
            <MayButton
              right="administer"
              disabled={!isReady || isBusy}
              onClick={() => void submit(onAnother)}
            >
              {label.replace(/^Add .*$/u, 'Add, and another')}
            </MayButton>
          ) : null}
          <OkBtn />
        </>
      )}
      onCancel={onClose}
      destroyOnHidden
    >
      {children}
      <WouldDo rehearsal={rehearsal} error={error} isCurrent={isCurrent} />
      <OthersAct reacting={reacting} isChosen={othersAct} onChoose={setOthersAct} />
      <ProblemNotice error={refused} />
    </Dialog>
  );
}
