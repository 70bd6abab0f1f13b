'use client';

import { sameData } from '@/core/values';
import type { RuleDefaults } from '@/core/model';
import type { ModelView } from '@/core/api';
import { Button } from 'antd';
import { useState } from 'react';
import { ChangeDialog } from '@/ui/model/dialogs/change-dialog';
import { LimitsPart } from './fields/limits-part';
import { PacePart } from './fields/pace-part';
import { RoundingPart } from './fields/rounding-part';
import expressionStyle from '@/ui/expression/expression.module.css';

/** What new rules of the workspace begin with. Rules that are there stay as they are. */
export function RuleDefaultsDialog({ model, onClose }: { model: ModelView; onClose: () => void }) {
  const [defaults, setDefaults] = useState<RuleDefaults>(model.ruleDefaults);
  const { rounding, limits } = defaults;
  const isChanged = !sameData(defaults, model.ruleDefaults);
  const to = { ...defaults, limits: limits && (limits.least || limits.most) ? limits : null };
  return (
    <ChangeDialog
      title="What new rules begin with"
      changes={isChanged ? [{ kind: 'changeRuleDefaults', to }] : null}
      version={model.version}
      apply="Keep these defaults"
      done="New rules begin with these defaults."
      onClose={onClose}
    >
      <p>
        A rule that is written from now on begins with what stands here, where it fits the field that it
        keeps. In the rule itself it can be changed. Rules that are there stay as they are.
      </p>
      <p className={expressionStyle.sentence}>
        <RoundingPart
          rounding={rounding}
          places="any"
          onChange={(chosen) => setDefaults({ ...defaults, rounding: chosen })}
        />
        {limits ? (
          <LimitsPart
            limits={limits}
            isWrong={false}
            onChange={(chosen) => setDefaults({ ...defaults, limits: chosen })}
          />
        ) : (
          <Button size="small" onClick={() => setDefaults({ ...defaults, limits: {} })}>
            Add limits
          </Button>
        )}{' '}
        <PacePart
          pace={defaults.pace}
          isWrong={false}
          asking={[]}
          onChange={(pace) => setDefaults({ ...defaults, pace })}
        />
      </p>
    </ChangeDialog>
  );
}
