'use client';

import { type Model, readModel } from '@/core/model';
import { compareOutcomes, familyAfter, type Proof, type WireRecord } from '@/core/verify';
import { type RuleView, type SampleFamilyView } from '@/core/api';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useCallback, useMemo, useState } from 'react';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import type { OpenRuleWorker } from '@/ui/workers/use-rule-worker';
import type { Rehearsed, Staged } from '@/ui/workers/rule-worker';
import { KeepAsItStands } from './family/families';
import { InBin } from './family/in-bin';
import { Differences } from './differences';
import { Term } from '@/ui/help/term';
import { happened } from '@/ui/kit/happened';
import { KeepProof } from './proof/keep-proof';
import { differingCells, ProofOpened, useRunOf } from './proof/proof-opened';
import { NothingStaged, Saves } from './saves';
import { StagedFamily } from './staged-family';
import { titlesIn } from './family/in-sight';
import { standing } from './family/as-staged';
import { OpenTool, type Taking } from './open-tool';
import type { ReadAt } from './read-rule';
import { beginStaging, restage } from './steps/staging';
import { isSave, stagedOf, type Step, stepsOf } from './steps/steps';
import { StagingBar, type Tool } from './steps/staging-bar';
import { clsx } from 'clsx';
import benchStyle from './bench.module.css';
import style from './rehearsing.module.css';

export interface RehearsingProps {
  /** What it is called among the two. */
  readonly name: string;
  /** Another family stands beside it. */
  readonly isBeside: boolean;
  readonly onBeside: () => void;
  /** What differs from today’s rules is shown at first. */
  readonly comparesAtFirst: boolean;
  /** The family is the data as it is now. */
  readonly isReal: boolean;
  /** A proof that was opened: its edits are staged at first. */
  readonly proof: Proof | null;
  readonly onKept: (family: SampleFamilyView) => void;
  readonly ruleWorker: OpenRuleWorker;
  readonly rules: readonly RuleView[];
  readonly drafts: readonly string[];
}

const RIPPLE = <Term of="ripple">Ripple</Term>;

/** A family on which edits are staged, and what follows from them. */
export function Rehearsing({
  ruleWorker,
  rules,
  drafts,
  proof,
  isReal,
  name,
  isBeside,
  onBeside,
  comparesAtFirst,
  onKept,
}: RehearsingProps) {
  const begun = useMemo(() => (proof ? stepsOf(proof) : []), [proof]);
  const [staging, setStaging] = useState(() => beginStaging(begun));
  const { steps } = staging;
  const setSteps = (to: readonly Step[]) => setStaging(restage(staging, to));
  const [tool, setTool] = useState<Tool | ReadAt | null>(null);
  const [isComparing, setComparing] = useState(comparesAtFirst);
  const [keeping, setKeeping] = useState<KeepingProps['keeping']>(null);
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set());
  const taking = useMemo(
    () =>
      rules
        .filter((rule) => drafts.includes(rule.id))
        .map(({ id, name, definition }) => ({ id, name, definition })),
    [rules, drafts],
  );
  const staged = useMemo(() => stagedOf(steps), [steps]);
  const { setup } = ruleWorker;
  const model = useMemo(() => readModel(setup.model, setup.settledDay), [setup.model, setup.settledDay]);
  const { data, error } = useRehearsed(ruleWorker, staged, taking);
  const today = useRehearsed(ruleWorker, staged, NO_DRAFTS, isComparing && taking.length > 0);
  const nameOf = useNames(model, setup, data);
  const proven = useRunOf(proof, steps === begun);
  const differing = useMemo(() => differingCells(proven), [proven]);
  // The same whatever is staged: until it is known what follows, the family isn't drawn again.
  const stage = useCallback((step: Step) => {
    setStaging((now) => restage(now, [...now.steps, step]));
    happened('edited');
  }, []);
  const last = data?.rehearsals.at(-1);
  // A record that was deleted in the same save comes back by leaving that out.
  const restore = ({ type, id }: WireRecord) => {
    const from = steps.findLastIndex(isSave) + 1;
    const at = steps.findIndex((step, index) => index >= from && step.kind === 'delete' && step.id === id);
    if (at >= 0) setSteps(steps.filter((_, index) => index !== at));
    else stage({ kind: 'restore', type, id });
  };
  return (
    <div className={benchStyle.bench}>
      <section className={clsx('sheet', style.benchTree)} aria-label={name}>
        <ProblemNotice error={error} />
        {data ? (
          <>
            <StagedFamily
              {...{ model, ruleWorker, data, stage, taking, nameOf, onRead: setTool }}
              marked={marked.size > 0 ? marked : differing}
            />
            <InBin {...{ model, data, steps }} family={setup.family} onRestore={restore} />
          </>
        ) : (
          <Loading what="the family" />
        )}
      </section>
      <section className={clsx('sheet', style.benchRipple)} aria-label="Ripple">
        <div className="sheet-head">
          <h2>{isComparing && taking.length > 0 ? 'Differences' : RIPPLE}</h2>
          <StagingBar
            {...{ staging, begun, isComparing, isBeside, isReal, onBeside }}
            {...{ isProof: proof !== null, hasDrafts: taking.length > 0 }}
            last={last ?? null}
            isRead={data !== undefined}
            onStaging={setStaging}
            onKeep={setKeeping}
            onTool={setTool}
            onCompare={() => setComparing(!isComparing)}
          />
        </div>
        {tool ? (
          <OpenTool
            {...{ tool, model, steps, nameOf, setup, ruleWorker, staged, taking, data }}
            onSteps={setSteps}
            onClose={() => setTool(null)}
          />
        ) : null}
        {data ? (
          <Keeping
            {...{ keeping, model, setup, staged, data, taking, onKept }}
            onClose={() => setKeeping(null)}
          />
        ) : null}
        <div className={style.benchWaves} aria-live="polite">
          {proof ? <ProofOpened {...{ proof, rules, data }} run={proven} isAsKept={steps === begun} /> : null}
          {data && isComparing && taking.length > 0 ? (
            today.data ? (
              <Differences
                compared={compareOutcomes(
                  model,
                  standing(model, setup.family, today.data).records,
                  standing(model, setup.family, data).records,
                  nameOf,
                )}
              />
            ) : (
              <ProblemNotice error={today.error} />
            )
          ) : data ? (
            <Saves {...{ data, steps, staged, setup }} onMark={setMarked} />
          ) : steps.length === 0 && taking.length === 0 && isReal ? (
            <NothingStaged />
          ) : null}
        </div>
      </section>
    </div>
  );
}

interface KeepingProps {
  readonly keeping: 'proof' | 'family' | null;
  readonly model: Model;
  readonly setup: OpenRuleWorker['setup'];
  readonly staged: Staged;
  readonly data: Rehearsed;
  readonly taking: Taking;
  readonly onKept: (family: SampleFamilyView) => void;
  readonly onClose: () => void;
}

/** What is staged is kept: as a proof, or the family as it stands. */
function Keeping({ keeping, model, setup, staged, data, taking, onKept, onClose }: KeepingProps) {
  const now = () => standing(model, setup.family, data).records;
  if (keeping === 'proof')
    return (
      <KeepProof
        {...{ model, setup, staged, onClose }}
        rehearsals={data.rehearsals}
        records={now}
        drafts={taking}
      />
    );
  return keeping === 'family' ? (
    <KeepAsItStands
      family={() => familyAfter(model, setup.family, now())}
      onOpen={onKept}
      onClose={onClose}
    />
  ) : null;
}

const NO_DRAFTS: Taking = [];

/** What follows from what is staged; what was there before stays until it is known. */
function useRehearsed(ruleWorker: OpenRuleWorker, staged: Staged, taking: Taking, isEnabled = true) {
  return useQuery({
    queryKey: ['rehearsed', ruleWorker.key, staged, taking],
    queryFn: () => ruleWorker.run<Rehearsed>(async (remote) => remote.rehearse(staged, taking)),
    enabled: isEnabled,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 30_000,
  });
}

/** What a record or a person is called, also one that is staged. */
function useNames(
  model: Model,
  { family, people }: OpenRuleWorker['setup'],
  data: Rehearsed | undefined,
): (id: string) => string | undefined {
  const titles = useMemo(() => titlesIn(model, family.records), [model, family]);
  const changed = useMemo(() => titlesIn(model, data?.changed ?? []), [model, data]);
  return useCallback(
    (id) => people[id] ?? changed.get(id) ?? titles.get(id) ?? family.names[id],
    [people, changed, titles, family],
  );
}
