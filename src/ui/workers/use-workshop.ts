'use client';

import type { ModelDefinition } from '@/core/model';
import type { Rule } from '@/core/rules';
import type { ModelView } from '@/core/verify';
import { type Remote, wrap } from 'comlink';
import { useMemo } from 'react';
import { useFamily, useModelView, usePeople, useRules } from '../api/queries';
import type { Workshop, WorkshopSetup } from './workshop';

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
): { workshop: OpenWorkshop | null; problem: Error | null } {
  const family = useFamily(type, id, kept, whole);
  const model = useModelView();
  const rules = useRules();
  const people = usePeople();
  const workshop = useMemo((): OpenWorkshop | null => {
    if (!family.data || !model.data || !rules.data || !people.data) return null;
    const live = rules.data.rules
      .filter((rule) => rule.state === 'live')
      .map(({ id: ruleId, name, definition, liveDefinition }): Rule => ({
        id: ruleId,
        version: ruleId,
        name,
        definition: liveDefinition ?? definition,
      }));
    const setup: WorkshopSetup = {
      ...{ model: modelData(model.data), settledDay: model.data.settledDay, family: family.data, live },
      people: Object.fromEntries(people.data.people.map((person) => [person.id, person.name])),
    };
    const { root } = family.data;
    const key = [
      kept ?? '',
      whole ?? '',
      root.type,
      root.id,
      family.dataUpdatedAt,
      model.dataUpdatedAt,
      rules.dataUpdatedAt,
      people.dataUpdatedAt,
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
  ]);
  return { workshop, problem: family.error ?? model.error ?? rules.error ?? people.error };
}
