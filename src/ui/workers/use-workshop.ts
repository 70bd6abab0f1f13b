'use client';

import { type ModelDefinition, readModel } from '@/core/model';
import { buildPlan } from '@/core/plan';
import type { Rule } from '@/core/rules';
import { type FamilyData, fittedFamily, type Proof, workedOut } from '@/core/verify';
import type { Remote } from 'comlink';
import { useMemo } from 'react';
import { liveOf, useFamily, useModelView, usePeople, useRules } from '../api/queries';
import { usePerson } from '../shell/person';
import { inTurn, modelData, theWorker } from './the-worker';
import type { Workshop, WorkshopSetup } from './workshop';

/** A workshop opened on one family: its key changes whenever the family, the rules or the model do. */
export interface OpenWorkshop {
  readonly key: string;
  readonly setup: WorkshopSetup;
  /** Runs work in the worker, on this family. */
  run<T>(work: (workshop: Remote<Workshop>) => Promise<T>): Promise<T>;
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
