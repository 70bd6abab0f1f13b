'use client';

import type { Model } from '@/core/model';
import { wordsOfStep } from './step-words';
import { DeleteOutlined } from '@ant-design/icons';
import { Button } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { MoveButtons } from '@/ui/kit/move-buttons';
import { isSave, type Step } from './steps';
import style from './step-list.module.css';

interface StepListProps {
  readonly model: Model;
  readonly steps: readonly Step[];
  readonly nameOf: (id: string) => string | undefined;
  readonly onChange: (steps: readonly Step[]) => void;
  readonly onClose: () => void;
}

/** What is staged, in its order: steps are moved, also into another save, and left out. */
export function StepList({ model, steps, nameOf, onChange, onClose }: StepListProps) {
  return (
    <Dialog open title="What is staged, in order" footer={null} onCancel={onClose}>
      <ol className={style.stepList}>
        {steps.map((step, at) => {
          const words = wordsOfStep(model, step, nameOf);
          return (
            <li key={`${at} ${words}`} className={isSave(step) ? style.stepSave : undefined}>
              <span>{words}</span>
              <span className={style.stepButtons}>
                <MoveButtons items={steps} index={at} name={words} onChange={onChange} />
                <Button
                  size="small"
                  type="text"
                  icon={<DeleteOutlined />}
                  aria-label={`Leave out: ${words}`}
                  onClick={() => onChange(steps.filter((_, other) => other !== at))}
                />
              </span>
            </li>
          );
        })}
      </ol>
      {steps.length === 0 ? <p className="quiet">Nothing is staged.</p> : null}
    </Dialog>
  );
}
