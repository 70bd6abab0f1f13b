'use client';

import { lastIn } from '@/core/values';
import { type SaveRehearsed } from '@/core/verify';
import { UndoOutlined } from '@ant-design/icons';
import { Button, Dropdown } from 'antd';
import { MayButton } from '@/ui/kit/may-button';
import { redoStaging, restage, type Staging, undoStaging } from './staging';
import { isSave, type Step } from './steps';
import style from './staging-bar.module.css';

type Kept = 'proof' | 'family';

export type Tool = 'steps' | 'many' | 'real' | 'read' | 'when';

interface BarProps {
  readonly staging: Staging;
  readonly begun: readonly Step[];
  /** How the last save came out; `null` while none is known. */
  readonly last: SaveRehearsed | null;
  readonly isRead: boolean;
  readonly isComparing: boolean;
  readonly isBeside: boolean;
  readonly isReal: boolean;
  readonly isProof: boolean;
  readonly hasDrafts: boolean;
  readonly onStaging: (to: Staging) => void;
  readonly onKeep: (what: Kept) => void;
  readonly onTool: (tool: Tool) => void;
  readonly onCompare: () => void;
  readonly onBeside: () => void;
}

/** What can be done with what is staged. */
export function StagingBar(props: BarProps) {
  const { staging, begun, last, isRead, isComparing, isBeside, isReal, isProof, hasDrafts } = props;
  const { onStaging, onKeep, onTool, onCompare, onBeside } = props;
  const { steps } = staging;
  return (
    <div className={style.benchUndo}>
      <Dropdown
        trigger={['click']}
        disabled={!last || steps.length === 0 || last.kind === 'unsound'}
        menu={{
          items: [
            { key: 'proof', label: 'As a proof of a rule …' },
            {
              key: 'family',
              label: 'The family as it stands …',
              disabled: last?.kind !== 'done',
            },
          ],
          onClick: ({ key }) => onKeep(key as Kept),
        }}
      >
        <MayButton right="writeRules" size="small">
          Keep …
        </MayButton>
      </Dropdown>
      <Button
        size="small"
        icon={<UndoOutlined />}
        disabled={steps.length === 0 && staging.past.length === 0}
        onClick={() => onStaging(undoStaging(staging))}
      >
        Undo
      </Button>
      <Button
        size="small"
        disabled={last?.kind !== 'done' || steps.length === 0 || isSave(lastIn(steps))}
        title="What you stage from now on is another save: rules have followed from what was before"
        onClick={() => onStaging(restage(staging, [...steps, { kind: 'save' }]))}
      >
        Next save
      </Button>
      <Dropdown
        trigger={['click']}
        menu={{
          items: [
            { key: 'redo', label: 'Do again what was undone', disabled: staging.future.length === 0 },
            { key: 'begin', label: 'Start over', disabled: steps === begun || steps.length === 0 },
            { key: 'steps', label: 'What is staged, in order …', disabled: steps.length === 0 },
            {
              key: 'beside',
              label: isBeside ? 'One family at a time' : 'Another family beside it …',
              disabled: isProof,
            },
            { key: 'many', label: 'Change many …', disabled: !isRead },
            { key: 'when', label: 'Another day, or another person …', disabled: !isRead },
            { key: 'read', label: 'Read a rule on a record …', disabled: !isRead },
            {
              key: 'compare',
              label: isComparing ? 'Show the ripple' : 'Compare with today’s rules',
              disabled: !hasDrafts,
            },
            {
              key: 'real',
              label: 'On the real data …',
              disabled: !isReal || (steps.length === 0 && !hasDrafts),
            },
          ],
          onClick: ({ key }) => {
            if (key === 'beside') onBeside();
            else if (key === 'redo') onStaging(redoStaging(staging));
            else if (key === 'begin') onStaging(restage(staging, begun));
            else if (key === 'compare') onCompare();
            else onTool(key as Tool);
          },
        }}
      >
        <Button size="small">More …</Button>
      </Dropdown>
    </div>
  );
}
