'use client';

import { type Model, typeIn } from '@/core/model';
import type { RuleDefinition } from '@/core/rules';
import {
  type Expectation,
  proposeExpectations,
  type ExpectedValue,
  type Rehearsal,
  type WireRecord,
} from '@/core/verify';
import { type ProofRunView } from '@/core/api';
import { useQueryClient } from '@tanstack/react-query';
import { Checkbox, Select } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import { useMemo, useState } from 'react';
import { callApi } from '@/ui/api/client';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { useTask } from '@/ui/kit/hooks/use-task';
import { usePerson } from '@/ui/api/person';
import { Elsewhere } from '@/ui/bench/family/elsewhere';
import { happened } from '@/ui/kit/happened';
import { NameInput } from '@/ui/kit/name-input';
import type { Staged, RuleWorkerSetup } from '@/ui/workers/rule-worker';
import kitStyle from '@/ui/kit/kit.module.css';

interface TakingPart {
  readonly id: string;
  readonly name: string;
  readonly definition: RuleDefinition;
}

interface KeepProofProps {
  readonly model: Model;
  readonly setup: RuleWorkerSetup;
  readonly staged: Staged;
  readonly rehearsals: readonly Rehearsal[];
  /** Members of the family as they would stand. */
  readonly records: () => readonly WireRecord[];
  /** Rules that take part although they aren't live. */
  readonly drafts: readonly TakingPart[];
  readonly onClose: () => void;
}

/** Keeps what was staged and what came of it as a proof of a rule. */
export function KeepProof({ model, setup, staged, rehearsals, records, drafts, onClose }: KeepProofProps) {
  const person = usePerson();
  const client = useQueryClient();
  const { run, isBusy, error } = useTask();
  const rules = useMemo(() => {
    const stands = new Set(drafts.map(({ id }) => id));
    return [...drafts, ...setup.live.filter(({ id }) => !stands.has(id))];
  }, [drafts, setup]);
  const [standing] = useState(records);
  const [rule, setRule] = useState(() => firstOf(rules, drafts, rehearsals));
  const [name, setName] = useState('');
  const [turned, setTurned] = useState<ReadonlySet<string>>(new Set());
  const chosen = rules.find(({ id }) => id === rule) ?? null;
  const proposed = useMemo(() => {
    if (!chosen) return [];
    const known = new Map(standing.map(({ id, type, values }) => [id, values[typeIn(model, type).title]]));
    const nameOf = (id: string) => setup.people[id] ?? textOf(known.get(id)) ?? setup.family.names[id];
    return proposeExpectations(model, { rule: chosen, rehearsals, records: standing, nameOf });
  }, [model, setup, chosen, rehearsals, standing]);
  // What the rule does is expected, until it is left out; what other rules do isn't, until it is taken in.
  const isExpected = (one: (typeof proposed)[number]) => one.isOwn !== turned.has(one.words);
  const [elsewhere, setElsewhere] = useState<readonly ExpectedValue[]>([]);
  // What was worked out elsewhere counts, whatever the rule gives.
  const isElsewhere = ({ expectation: one }: (typeof proposed)[number]) =>
    'field' in one && elsewhere.some(({ id, field }) => id === one.id && field === one.field);
  const shown = proposed.filter((one) => !isElsewhere(one));
  const expected: Expectation[] = [
    ...shown.filter(isExpected).map(({ expectation }) => expectation),
    ...elsewhere.map((one) => ({ kind: 'becomes' as const, ...one })),
  ];
  const keep = () =>
    run(
      async () => {
        const body = {
          ...{ rule, name, family: setup.family, day: setup.settledDay, runs: staged.runs },
          settings: [{ run: 0, person: setup.person }, ...staged.settings],
          expectations: expected,
        };
        const kept = await callApi<ProofRunView>('/proofs', { method: 'POST', body, person: person.id });
        await client.invalidateQueries({ queryKey: ['rules'] });
        return kept;
      },
      ({ proof, result }) =>
        `“${proof.name}” is kept${result.kind === 'held' ? '; it holds' : ', but it doesn’t hold with the rules as they are'}.`,
      () => {
        happened('proofKept');
        onClose();
      },
    );
  return (
    <Dialog
      open
      title="Keep as proof"
      okText="Keep it"
      cancelText="Not now"
      okButtonProps={{ disabled: name.trim() === '' || expected.length === 0, loading: isBusy }}
      onOk={() => void keep()}
      onCancel={onClose}
    >
      <p>
        A copy of this family, what was changed here and what must come of it. Whenever the rule is changed,
        it shows whether that still comes of it.
      </p>
      <div className={kitStyle.keepForm}>
        <label>
          Proof of the rule
          <Select
            aria-label="Proof of the rule"
            value={rule}
            showSearch={{ optionFilterProp: 'label' }}
            options={rules.map(({ id, name: label }) => ({ value: id, label }))}
            onChange={(id) => {
              setRule(id);
              setTurned(new Set());
            }}
            style={{ width: '100%' }}
          />
        </label>
        <NameInput value={name} onChange={setName} placeholder="Name: which case it is" />
        <fieldset className={kitStyle.keepExpected}>
          <legend>What must come of it</legend>
          {shown.map((one) => (
            <Checkbox
              key={one.words}
              checked={isExpected(one)}
              onChange={() => setTurned(toggled(turned, one.words))}
            >
              {one.words}
            </Checkbox>
          ))}
          {shown.length === 0 && elsewhere.length === 0 ? (
            <p className="quiet">
              {chosen
                ? 'This rule writes nothing in this family. Choose another rule, or a family that it reaches.'
                : 'No rule takes part yet. Add a draft above, or take one live.'}
            </p>
          ) : null}
        </fieldset>
        <Elsewhere {...{ model, setup, standing }} values={elsewhere} onChange={setElsewhere} />
      </div>
      <ProblemNotice error={error} />
    </Dialog>
  );
}

const textOf = (value: unknown): string | undefined => (typeof value === 'string' ? value : undefined);

const toggled = (set: ReadonlySet<string>, one: string): ReadonlySet<string> =>
  new Set(set.has(one) ? [...set].filter((other) => other !== one) : [...set, one]);

/** The first draft that takes part; else the first rule that wrote something. */
function firstOf(
  rules: readonly TakingPart[],
  drafts: readonly TakingPart[],
  rehearsals: readonly Rehearsal[],
): string | null {
  if (drafts[0]) return drafts[0].id;
  for (const rehearsal of rehearsals)
    if (rehearsal.kind === 'done')
      for (const { changes } of rehearsal.ripple.waves)
        for (const { rule } of changes) if (rule) return rule.id;
  return rules[0]?.id ?? null;
}
