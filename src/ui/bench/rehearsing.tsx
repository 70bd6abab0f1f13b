'use client';

import { type Model, readModel, typeIn } from '@/core/model';
import type { WireValue } from '@/core/values';
import { compareOutcomes, familyAfter, type Proof, type WireRecord, withDrafts } from '@/core/verify';
import { type RuleView, type SampleFamilyView } from '@/core/api';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useState } from 'react';
import { v7 as newId } from 'uuid';
import { cellKey } from '@/ui/kit/values/cell-key';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problem-notice';
import type { OpenRuleWorker } from '@/ui/workers/use-rule-worker';
import { asRule, type Drafted, type Rehearsed, type Staged } from '@/ui/workers/rule-worker';
import { KeepAsItStands } from './family/families';
import { InBin } from './family/in-bin';
import { ChangeMany } from './steps/change-many';
import { Differences } from './differences';
import { Term } from '@/ui/help/term';
import { happened } from '@/ui/kit/happened';
import { KeepProof } from './proof/keep-proof';
import { differingCells, ProofOpened, useRunOf } from './proof/proof-opened';
import { Saves } from './saves';
import type { FamilyScope } from '@/ui/bench/family/tree-scope';
import { FamilyTree } from '@/ui/bench/family/family-tree';
import { changedColumns, withChanged, columnsOn } from './family/columns';
import { changedFields, titled, withAncestors } from './family/in-sight';
import { NarrowFamily, type Narrowed } from './family/narrow-family';
import { standing } from './family/as-staged';
import { type ReadAt, ReadRule } from './read-rule';
import { RealData } from './steps/real-data';
import { beginStaging, restage } from './steps/staging';
import { StepList } from './steps/step-list';
import { isSave, stagedOf, type Step, stepsOf } from './steps/steps';
import { WhenAndWho } from './steps/when-and-who';
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
  const [keeping, setKeeping] = useState<'proof' | 'family' | null>(null);
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
  const nameOf = (id: string) => nameIn(model, setup, data, id);
  const proven = useRunOf(proof, steps === begun);
  const differing = useMemo(() => differingCells(proven), [proven]);
  const stage = (step: Step) => (setSteps([...steps, step]), happened('edited'));
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
            <Tree
              {...{ model, ruleWorker, data, stage, taking, onRead: setTool }}
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
        {data && keeping === 'proof' ? (
          <KeepProof
            {...{ model, setup, staged }}
            rehearsals={data.rehearsals}
            records={() => standing(model, setup.family, data).records}
            drafts={taking}
            onClose={() => setKeeping(null)}
          />
        ) : null}
        {data && keeping === 'family' ? (
          <KeepAsItStands
            family={() => familyAfter(model, setup.family, standing(model, setup.family, data).records)}
            onOpen={onKept}
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
          ) : null}
        </div>
      </section>
    </div>
  );
}

/** Rules that take part although they aren’t live. */
type Taking = readonly Drafted[];

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
function OpenTool(props: ToolProps) {
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

/** What a record or a person is called, also one that is staged. */
function nameIn(
  model: Model,
  { family, people }: OpenRuleWorker['setup'],
  data: Rehearsed | undefined,
  id: string,
) {
  const record = [...(data?.changed ?? []), ...family.records].find((one) => one.id === id);
  const title = record?.values[model.type(record.type)?.title ?? ''];
  return people[id] ?? (typeof title === 'string' ? title : family.names[id]);
}

interface TreeProps {
  readonly model: Model;
  readonly ruleWorker: OpenRuleWorker;
  readonly data: Rehearsed;
  readonly marked: ReadonlySet<string>;
  readonly stage: (step: Step) => void;
  readonly onRead: (at: ReadAt) => void;
  readonly taking: readonly {
    readonly id: string;
    readonly name: string;
    readonly definition: RuleView['definition'];
  }[];
}

function Tree({ model, ruleWorker, data, marked, stage, taking, onRead }: TreeProps) {
  const { setup } = ruleWorker;
  const { family, live } = setup;
  const stored = useMemo(() => new Map(family.records.map((record) => [record.id, record])), [family]);
  const now = useMemo(() => standing(model, family, data), [model, family, data]);
  const rules = useMemo(() => withDrafts(live, taking.map(asRule)), [live, taking]);
  const [narrowed, setNarrowed] = useState<Narrowed>({ search: '', isOnlyChanged: false });
  const isOnlyChanged = narrowed.isOnlyChanged && data.changed.length > 0;
  const columns = useMemo(() => {
    const all = columnsOn(model, rules);
    const changed = changedFields(data.changed, stored);
    return (isOnlyChanged ? changedColumns : withChanged)(model, all, changed);
  }, [model, rules, isOnlyChanged, data, stored]);
  useEffect(() => {
    if (marked.size > 0)
      document.querySelector('[data-cell="marked"]')?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  }, [marked]);
  const inSight = useMemo(() => {
    if (!isOnlyChanged && narrowed.search === '') return null;
    const found = titled(model, now.records, narrowed.search);
    const wanted = isOnlyChanged ? data.changed.map(({ id }) => id).filter((id) => found.has(id)) : found;
    return withAncestors(model, now.records, new Set(wanted));
  }, [model, now, data, isOnlyChanged, narrowed.search]);
  const titles = useMemo(
    () =>
      new Map(
        [...family.records, ...data.changed].map((record) => [
          record.id,
          String(record.values[typeIn(model, record.type).title]),
        ]),
      ),
    [model, family, data],
  );
  const changes = data.rehearsals.flatMap((rehearsal) =>
    rehearsal.kind === 'done'
      ? [...(rehearsal.filled?.waves ?? []), ...rehearsal.ripple.waves].flatMap((wave) => wave.changes)
      : [],
  );
  const scope: FamilyScope = {
    ...{ model, family, stored, marked, now, rules, columns, inSight },
    problems: new Map(
      changes.flatMap((change) =>
        change.problem ? [[cellKey(change.type, change.id, change.field), change.problem] as const] : [],
      ),
    ),
    nameOf: (id) => setup.people[id] ?? titles.get(id) ?? family.names[id],
    onEdit: ({ type, id }: WireRecord, field: string, value: WireValue) =>
      stage({ kind: 'edit', type, id, field, value }),
    onRead: (rule, record) => onRead({ rule, record }),
    onDelete: ({ type, id }: WireRecord) => stage({ kind: 'delete', type, id }),
    onMove: ({ type, id }: WireRecord, link: string, parent: string) =>
      stage({ kind: 'edit', type, id, field: link, value: parent }),
    onAdd: ({ type, link }, parent) => {
      const { title, name } = typeIn(model, type);
      const number =
        data.changed.filter((record) => record.type === type && !stored.has(record.id)).length + 1;
      stage({
        kind: 'create',
        type,
        id: newId(),
        values: { [title]: `New ${name.toLowerCase()} ${number}`, [link]: parent.id },
      });
    },
  };
  return (
    <>
      <NarrowFamily {...{ narrowed, inSight }} changed={data.changed.length} onNarrow={setNarrowed} />
      <FamilyTree key={String(inSight !== null)} scope={scope} />
    </>
  );
}
