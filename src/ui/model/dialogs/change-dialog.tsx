'use client';

import type { ModelChange } from '@/core/model';
import { Dialog } from '@/ui/kit/dialog';
import type { ReactNode } from 'react';
import { ProblemNotice } from '@/ui/kit/problem-notice';
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
  readonly children?: ReactNode;
}

/** A change of the model: its form, and beneath it what that would do, worked out as it is written. Nothing changes before Apply. */
export function ChangeDialog(props: ChangeDialogProps) {
  const { title, changes, version, apply: label, isDanger = false, done, onClose, onDone, children } = props;
  const { rehearsal, error, isCurrent } = useModelRehearsal(changes);
  const { apply, isBusy, error: refused } = useApplyChanges(version);
  const isReady = changes !== null && isCurrent && (rehearsal?.isPossible ?? false);
  const submit = async () => {
    if (!isReady || !(await apply(changes, done))) return;
    onDone?.();
    onClose();
  };
  return (
    <Dialog
      open
      title={title}
      width={640}
      okText={label}
      okButtonProps={{ disabled: !isReady, danger: isDanger }}
      confirmLoading={isBusy}
      onOk={() => void submit()}
      onCancel={onClose}
      destroyOnHidden
    >
      {children}
      <WouldDo rehearsal={rehearsal} error={error} isCurrent={isCurrent} />
      <ProblemNotice error={refused} />
    </Dialog>
  );
}
