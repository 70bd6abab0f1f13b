'use client';

import { isUnread, type WireValue } from '@/core/values';
import { DateInput } from '@/ui/kit/values/date-input';
import { Select } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { useState } from 'react';
import type { RuleWorkerSetup } from '@/ui/workers/rule-worker';
import type { Step } from './steps';
import kitStyle from '@/ui/kit/kit.module.css';

interface WhenAndWhoProps {
  readonly steps: readonly Step[];
  readonly setup: RuleWorkerSetup;
  readonly onStage: (steps: readonly Step[]) => void;
  readonly onClose: () => void;
}

/** What comes next is another save: on another day, by another person, or both. */
export function WhenAndWho({ steps, setup, onStage, onClose }: WhenAndWhoProps) {
  const now = nowOf(steps, setup);
  const [day, setDay] = useState<WireValue>(now.day);
  const [person, setPerson] = useState(now.person);
  const more: Step[] = [
    ...(typeof day === 'string' && day !== now.day ? [{ kind: 'day', day } as const] : []),
    ...(person !== null && person !== now.person ? [{ kind: 'actor', person } as const] : []),
  ];
  const stage = () => {
    onStage(more);
    onClose();
  };
  return (
    <Dialog
      open
      title="Another day, or another person"
      okText="From now on"
      cancelText="Not now"
      okButtonProps={{ disabled: more.length === 0 || isUnread(day) }}
      onOk={stage}
      onCancel={onClose}
    >
      <p>
        What you stage from now on is another save. Where the day turns, what hangs on it is worked out first;
        nothing is saved.
      </p>
      <div className={kitStyle.keepForm}>
        <label>
          It is
          <DateInput aria-label="Day of the next save" value={day} onChange={setDay} />
        </label>
        <label>
          Who acts
          <Select
            aria-label="Who makes the next save"
            value={person}
            showSearch={{ optionFilterProp: 'label' }}
            options={Object.entries(setup.people).map(([id, name]) => ({ value: id, label: name }))}
            onChange={setPerson}
            style={{ width: '100%' }}
          />
        </label>
      </div>
    </Dialog>
  );
}

/** The day on which the last of the steps is made, and by whom. */
const nowOf = (steps: readonly Step[], { settledDay, person }: RuleWorkerSetup) =>
  steps.reduce(
    (now, step) => ({
      day: step.kind === 'day' ? step.day : now.day,
      person: step.kind === 'actor' ? step.person : now.person,
    }),
    { day: settledDay, person },
  );
