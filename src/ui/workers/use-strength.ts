'use client';

import { certain, itemAt } from '@/core/values';
import type { Proof, Strength, StrengthProgress } from '@/core/verify';
import type { RuleProofs, RuleView } from '@/core/api';
import { useQueries, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { callApi } from '@/ui/api/client';
import { liveOf, useModelView, useRules } from '@/ui/api/queries';
import { serialize, modelData, theWorker } from './the-worker';
import type { ProvenRule, StrengthStep } from './rule-worker';

/** How far the search for what no proof would notice has come, what it found, or why it can't be told. */
export interface StrengthState {
  readonly strength: Strength | null;
  readonly progress: StrengthProgress | null;
  readonly error: Error | null;
  readonly isStopped: boolean;
  readonly stop: () => void;
  readonly goOn: () => void;
}

/** Proofs by their names in the workspace, with their versions. */
type Kept = RuleProofs['kept'];

/** What the search for a rule hangs on, in one key, and all that it works with; `null` until that is known. */
function useSearches(): ((rule: RuleView, proofs: Kept) => Search) | null {
  const model = useModelView();
  const rules = useRules();
  if (!model.data || !rules.data) return null;
  const { version, settledDay } = model.data;
  const [view, all] = [model.data, rules.data.rules];
  const live = all.filter(({ state }) => state === 'live').map((one) => `${one.id} ${one.version}`);
  return (rule, proofs) => ({
    rule: rule.id,
    key: [
      ...[rule.id, rule.version, ...proofs.map((one) => `${one.id} ${one.version}`)],
      ...[version, settledDay, ...live],
    ].join(' '),
    asked: () => ({
      ...{ model: modelData(view), settledDay, live: liveOf(all) },
      rule: { id: rule.id, version: rule.id, name: rule.name, definition: rule.definition },
    }),
  });
}

interface Search {
  readonly rule: string;
  readonly key: string;
  readonly asked: () => Omit<ProvenRule, 'proofs'>;
}

/** Searches in the worker, piece by piece. */
async function searched(
  { rule, key: of, asked }: Search,
  {
    signal,
    isFigure,
    tell,
  }: { signal: AbortSignal; isFigure: boolean; tell: (so: StrengthProgress) => void },
): Promise<Strength> {
  const key = isFigure ? `figure ${of}` : of;
  const { proofs: read } = await callApi<{ proofs: Proof[] }>(`/rules/${rule}/proofs/whole`);
  for (;;) {
    signal.throwIfAborted();
    const step = await serialize(() => theWorker().goOnWithStrength(key) as Promise<StrengthStep | null>);
    signal.throwIfAborted();
    // Nothing was begun yet, or something else since.
    if (!step) await serialize(() => theWorker().beginStrength(key, { ...asked(), proofs: read, isFigure }));
    else if (step.kind === 'found') return step.strength;
    else tell(step.progress);
  }
}

/**
 * How strong a rule's proofs are, worked out in the worker piece by piece whenever the rule, its proofs, the model or the live rules change. It
 * can be stopped, and taken up again. `proofs` names the proofs with their versions; `null` while they aren't known or don't all hold.
 */
export function useStrength(rule: RuleView, proofs: Kept | null): StrengthState {
  const searches = useSearches();
  const client = useQueryClient();
  const [isStopped, setStopped] = useState(false);
  const search = searches && proofs ? searches(rule, proofs) : null;
  const queryKey = ['strength', search?.key ?? null];
  const progressKey = ['strength', 'progress', search?.key ?? null];
  const progress = useQuery<StrengthProgress>({ queryKey: progressKey, enabled: false });
  const strength = useQuery({
    queryKey,
    enabled: search !== null && !isStopped,
    staleTime: Infinity,
    retry: false,
    queryFn: ({ signal }) =>
      searched(certain(search), {
        signal,
        isFigure: false,
        tell: (so) => client.setQueryData(progressKey, so),
      }),
  });
  return {
    ...{ strength: strength.data ?? null, progress: progress.data ?? null, error: strength.error, isStopped },
    stop: () => {
      setStopped(true);
      void client.cancelQueries({ queryKey });
    },
    goOn: () => setStopped(false),
  };
}

/** How many of the ways to change a rule that may matter its proofs notice. */
export type Figure = Pick<Strength, 'tried' | 'noticed'>;

export interface FiguresState {
  /** By the id of a rule, as far as they are known. */
  readonly figures: ReadonlyMap<string, Figure>;
  /** How many rules have a figure, of those that may: their proofs all hold. */
  readonly done: number;
  readonly of: number;
  readonly error: Error | null;
  readonly isAsked: boolean;
  readonly ask: () => void;
  readonly stop: () => void;
}

// The worker searches for one rule at a time.
let last: Promise<unknown> = Promise.resolve();

/** The strength of many rules as figures, rule by rule, once it is asked for. What is known already is told without asking. */
export function useFigures(rules: readonly RuleView[], standings: readonly RuleProofs[]): FiguresState {
  const searches = useSearches();
  const client = useQueryClient();
  const [isAsked, setAsked] = useState(false);
  const proven = rules.flatMap((rule) => {
    const standing = standings.find((one) => one.rule === rule.id);
    return standing && standing.proofs > 0 && standing.held === standing.proofs && searches
      ? [{ id: rule.id, search: searches(rule, standing.kept) }]
      : [];
  });
  const results = useQueries({
    queries: proven.map(({ search }) => ({
      queryKey: ['strength', 'figure', search.key],
      enabled: isAsked,
      staleTime: Infinity,
      gcTime: Infinity,
      retry: false,
      initialData: () => client.getQueryData<Figure>(['strength', search.key]),
      queryFn: ({ signal }: { signal: AbortSignal }): Promise<Figure> => {
        const work = () => searched(search, { signal, isFigure: true, tell: () => undefined });
        const turn = last.then(work, work);
        last = turn.catch(() => undefined);
        return turn;
      },
    })),
  });
  const figures = new Map<string, Figure>();
  results.forEach(({ data }, at) => {
    if (data) figures.set(itemAt(proven, at).id, data);
  });
  return {
    ...{ figures, done: figures.size, of: proven.length, isAsked },
    error: results.find(({ error }) => error)?.error ?? null,
    ask: () => setAsked(true),
    stop: () => {
      setAsked(false);
      void client.cancelQueries({ queryKey: ['strength', 'figure'] });
    },
  };
}
