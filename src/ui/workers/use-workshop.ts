'use client';

import { type ModelDefinition, readModel } from '@/core/model';
import { buildPlan } from '@/core/plan';
import type { Rule } from '@/core/rules';
import {
  type FamilyData,
  fittedFamily,
  type ModelView,
  type Proof,
  type RuleView,
  type Strength,
  type StrengthProgress,
  workedOut,
} from '@/core/verify';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { type Remote, wrap } from 'comlink';
import { useMemo, useState } from 'react';
import { callApi } from '../api/client';
import { liveOf, useFamily, useModelView, usePeople, useRules } from '../api/queries';
import { usePerson } from '../shell/person';
import type { StrengthStep, Workshop, WorkshopSetup } from './workshop';

/** A model as it is handed to the worker. */
const modelData = ({ types, lists, selections }: ModelView): ModelDefinition => ({
  types,
  lists,
  selections,
});

let worker: Remote<Workshop> | null = null;

function theWorker(): Remote<Workshop> {
  worker ??= wrap<Workshop>(new Worker(new URL('./workshop.worker.ts', import.meta.url), { type: 'module' }));
  return worker;
}

/** A workshop opened on one family: its key changes whenever the family, the rules or the model do. */
export interface OpenWorkshop {
  readonly key: string;
  readonly setup: WorkshopSetup;
  /** Runs work in the worker, on this family. */
  run<T>(work: (workshop: Remote<Workshop>) => Promise<T>): Promise<T>;
}

// The worker holds one family at a time, so work on different ones goes one after the other.
let queue: Promise<unknown> = Promise.resolve();

function inTurn<T>(work: () => Promise<T>): Promise<T> {
  const turn = queue.then(work, work);
  queue = turn.catch(() => undefined);
  return turn;
}

/** The family of a record with all that is needed to work rules out on it; `problem` when it can't be loaded. */
export function useWorkshop(
  type: string | null,
  id: string | null,
  /** A kept family instead of the data as it is now. */
  kept: string | null = null,
  /** A type of which all records come along: a rule finds some among them. */
  whole: string | null = null,
  /** A proof's family, as it stands before its first edit, by its own day. */
  proof: Proof | null = null,
  /** Another day than the settled one: what hangs on the day is worked out for it. */
  day: string | null = null,
): { workshop: OpenWorkshop | null; problem: Error | null } {
  const family = useFamily(proof ? null : type, proof ? null : id, kept, whole);
  const model = useModelView();
  const rules = useRules();
  const people = usePeople();
  const acting = usePerson();
  const workshop = useMemo((): OpenWorkshop | null => {
    if (!(family.data || proof) || !model.data || !rules.data || !people.data) return null;
    const live = liveOf(rules.data.rules);
    const data = modelData(model.data);
    const settledDay = day ?? proof?.day ?? model.data.settledDay;
    const loaded = () => (day === null ? family.data! : onDay(data, live, { family: family.data!, day }));
    const setup: WorkshopSetup = {
      ...{
        model: data,
        settledDay,
        family: proof ? onDay(data, live, { ...proof, day: settledDay }) : loaded(),
        live,
      },
      people: {
        ...(proof
          ? Object.fromEntries(proof.people.map((one) => [one, proof.family.names[one] ?? one]))
          : {}),
        ...Object.fromEntries(people.data.people.map((person) => [person.id, person.name])),
      },
      // A proof says itself who acts in it.
      person: proof ? null : acting.id,
    };
    const { root } = setup.family;
    const key = [
      proof?.id ?? '',
      day ?? '',
      kept ?? '',
      whole ?? '',
      root.type,
      root.id,
      family.dataUpdatedAt,
      model.dataUpdatedAt,
      rules.dataUpdatedAt,
      people.dataUpdatedAt,
      acting.id,
    ].join(' ');
    return {
      ...{ key, setup },
      run: (work) =>
        inTurn(async () => {
          const remote = theWorker();
          if (!(await remote.isOpen(key))) await remote.open(key, setup);
          return work(remote);
        }),
    };
  }, [
    proof,
    day,
    kept,
    whole,
    family.data,
    family.dataUpdatedAt,
    model.data,
    model.dataUpdatedAt,
    rules.data,
    rules.dataUpdatedAt,
    people.data,
    people.dataUpdatedAt,
    acting.id,
  ]);
  return { workshop, problem: family.error ?? model.error ?? rules.error ?? people.error };
}

/** A family as it stands by a day, before its first edit. */
function onDay(
  definition: ModelDefinition,
  live: readonly Rule[],
  { family, day }: Pick<Proof, 'family' | 'day'>,
): FamilyData {
  const model = readModel(definition, day);
  return workedOut(model, buildPlan(model, live).plan, fittedFamily(model, family).family);
}

/** How far the search for what no proof would notice has come, what it found, or why it can't be told. */
export interface StrengthState {
  readonly strength: Strength | null;
  readonly progress: StrengthProgress | null;
  readonly error: Error | null;
  readonly isStopped: boolean;
  readonly stop: () => void;
  readonly goOn: () => void;
}

/**
 * How strong a rule's proofs are, worked out in the worker piece by piece whenever the rule, its proofs, the model or the live rules change. It
 * can be stopped, and taken up again. `proofs` names the proofs with their versions; `null` while they aren't known or don't all hold.
 */
export function useStrength(
  rule: RuleView,
  proofs: readonly { id: string; version: number }[] | null,
): StrengthState {
  const model = useModelView();
  const rules = useRules();
  const client = useQueryClient();
  const [isStopped, setStopped] = useState(false);
  const names = proofs === null ? null : proofs.map(({ id, version }) => `${id} ${version}`).join(' ');
  const liveKeys = (rules.data?.rules ?? [])
    .filter(({ state }) => state === 'live')
    .map((one) => `${one.id} ${one.version}`);
  const key =
    names === null || !model.data || !rules.data
      ? null
      : [rule.id, rule.version, names, model.data.version, model.data.settledDay, ...liveKeys].join(' ');
  const progressKey = ['strength', 'progress', key];
  const progress = useQuery<StrengthProgress>({ queryKey: progressKey, enabled: false });
  const strength = useQuery({
    queryKey: ['strength', key],
    enabled: key !== null && !isStopped,
    staleTime: Infinity,
    retry: false,
    queryFn: async ({ signal }): Promise<Strength> => {
      const asked = {
        ...{ model: modelData(model.data!), settledDay: model.data!.settledDay },
        live: liveOf(rules.data!.rules),
        rule: { id: rule.id, version: rule.id, name: rule.name, definition: rule.definition },
      };
      const read = await Promise.all(proofs!.map(({ id }) => callApi<Proof>(`/proofs/${id}`)));
      for (;;) {
        signal.throwIfAborted();
        const step = await inTurn(() => theWorker().goOnWithStrength(key!) as Promise<StrengthStep | null>);
        signal.throwIfAborted();
        // Nothing was begun yet, or something else since.
        if (!step) await inTurn(() => theWorker().beginStrength(key!, { ...asked, proofs: read }));
        else if (step.kind === 'found') return step.strength;
        else client.setQueryData(progressKey, step.progress);
      }
    },
  });
  return {
    ...{ strength: strength.data ?? null, progress: progress.data ?? null, error: strength.error, isStopped },
    stop: () => {
      setStopped(true);
      void client.cancelQueries({ queryKey: ['strength', key] });
    },
    goOn: () => setStopped(false),
  };
}
