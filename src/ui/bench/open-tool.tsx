import type { Model } from '@/core/model';
import { withDrafts } from '@/core/verify';
import { asRule, type Drafted, type Rehearsed, type Staged } from '@/ui/workers/rule-worker';
import type { OpenRuleWorker } from '@/ui/workers/use-rule-worker';
import { standing } from './family/as-staged';
import { type ReadAt, ReadRule } from './read-rule';
import { ChangeMany } from './steps/change-many';
import { RealData } from './steps/real-data';
import type { Tool } from './steps/staging-bar';
import { StepList } from './steps/step-list';
import type { Step } from './steps/steps';
import { WhenAndWho } from './steps/when-and-who';

/** Rules that take part although they aren’t live. */
export type Taking = readonly Drafted[];

interface ToolProps {
  readonly tool: Tool | ReadAt;
  readonly model: Model;
  readonly steps: readonly Step[];
  readonly nameOf: (id: string) => string | undefined;
  readonly setup: OpenRuleWorker['setup'];
  readonly ruleWorker: OpenRuleWorker;
  readonly staged: Staged;
  readonly taking: Taking;
  readonly data: Rehearsed | undefined;
  readonly onSteps: (steps: readonly Step[]) => void;
  readonly onClose: () => void;
}

/** The tool that was opened. */
export function OpenTool(props: ToolProps) {
  const { tool, model, steps, nameOf, setup, ruleWorker, staged, taking, data, onSteps, onClose } = props;
  return (
    <>
      {tool === 'steps' ? (
        <StepList {...{ model, steps, nameOf }} onChange={onSteps} onClose={onClose} />
      ) : null}
      {tool === 'many' && data ? (
        <ChangeMany
          model={model}
          records={standing(model, setup.family, data).records}
          rules={withDrafts(setup.live, taking.map(asRule))}
          onStage={(many) => onSteps([...steps, ...many])}
          onClose={onClose}
        />
      ) : null}
      {tool === 'when' ? (
        <WhenAndWho
          {...{ steps, setup }}
          onStage={(more) => onSteps([...steps, ...more])}
          onClose={onClose}
        />
      ) : null}
      {(tool === 'read' || typeof tool === 'object') && data ? (
        <ReadRule
          {...{ model, ruleWorker, staged }}
          {...(typeof tool === 'object' ? { at: tool } : {})}
          drafts={taking}
          records={standing(model, setup.family, data).records}
          onClose={onClose}
        />
      ) : null}
      {tool === 'real' ? <RealData {...{ steps }} drafts={taking} onClose={onClose} /> : null}
    </>
  );
}
