'use client';

import { certain } from '@/core/values';
import type { Proof } from '@/core/verify';
import { useQuery } from '@tanstack/react-query';
import type { Remote } from 'comlink';
import { useMemo } from 'react';
import { liveOf, useFamily, useModelView, usePeople, useRules } from '@/ui/api/queries';
import { usePerson } from '@/ui/api/person';
import { serialize, modelData, theWorker } from './the-worker';
import type { RuleWorker, RuleWorkerSetup } from './rule-worker';

/** A ruleWorker opened on one family: its key changes whenever the family, the rules or the model do. */
export interface OpenRuleWorker {
  readonly key: string;
  readonly setup: RuleWorkerSetup;
  /** Runs work in the worker, on this family. */
  run<T>(work: (ruleWorker: Remote<RuleWorker>) => Promise<T>): Promise<T>;
}

const numbers = new WeakMap<object, number>();
let last = 0;

/** Numbers of answers. One that is asked for again and is no other is the same object, and has the same: a large family isn't handed over again for it. */
const numbersOf = (answers: readonly (object | undefined)[]): string =>
  answers
    .map((answer) => {
      if (!answer) return '';
      const number = numbers.get(answer) ?? (last += 1);
      numbers.set(answer, number);
      return number;
    })
    .join(' ');

/** The family of a record with all that is needed to work rules out on it; `problem` when it can't be loaded. */
export function useRuleWorker(
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
): { ruleWorker: OpenRuleWorker | null; problem: Error | null } {
  const family = useFamily(proof ? null : type, proof ? null : id, kept, whole);
  const model = useModelView();
  const rules = useRules();
  const people = usePeople();
  const acting = usePerson();
  const given = proof?.family ?? family.data;
  const onDay = day ?? proof?.day ?? model.data?.settledDay;
  // As it stands by another day, or by the rules of today: worked out beside the page, since a family may be large.
  const isWorkedOut = proof !== null || day !== null;
  const answers = numbersOf([family.data, model.data, rules.data]);
  const of = [proof?.id, kept, whole, given?.root.id, answers].join(' ');
  const workedOut = useQuery({
    queryKey: ['workedOut', of, onDay],
    enabled: isWorkedOut && given !== undefined && model.data !== undefined && rules.data !== undefined,
    staleTime: Infinity,
    gcTime: 30_000,
    // Until another day of the same is there the one before stays.
    placeholderData: (before, query) => (query?.queryKey[1] === of ? before : undefined),
    queryFn: async () => {
      const setup = {
        model: modelData(certain(model.data)),
        settledDay: certain(onDay),
        family: certain(given),
      };
      const worked = { ...setup, live: liveOf(certain(rules.data).rules) };
      return { family: await serialize(() => theWorker().workOut(worked)), settledDay: certain(onDay) };
    },
  });
  const begun = useMemo(
    () => (isWorkedOut ? workedOut.data : given && onDay ? { family: given, settledDay: onDay } : undefined),
    [isWorkedOut, workedOut.data, given, onDay],
  );
  const ruleWorker = useMemo((): OpenRuleWorker | null => {
    if (!begun || !model.data || !rules.data || !people.data) return null;
    const setup: RuleWorkerSetup = {
      ...{ model: modelData(model.data), ...begun },
      live: liveOf(rules.data.rules),
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
      setup.settledDay,
      kept ?? '',
      whole ?? '',
      root.type,
      root.id,
      answers,
      numbersOf([people.data]),
      acting.id,
    ].join(' ');
    return {
      ...{ key, setup },
      run: (work) =>
        serialize(async () => {
          const remote = theWorker();
          if (!(await remote.isOpen(key))) await remote.open(key, setup);
          return work(remote);
        }),
    };
  }, [proof, kept, whole, begun, answers, model.data, rules.data, people.data, acting.id]);
  return {
    ruleWorker,
    problem: family.error ?? model.error ?? rules.error ?? people.error ?? workedOut.error,
  };
}
