'use client';

import type { Feeding } from '@/core/plan';
import { useQuery } from '@tanstack/react-query';
import { type Remote, wrap } from 'comlink';
import type { RulesMapApi } from './rules-map.worker';
import type { RulesMap } from './rules-map-layout';

let worker: Remote<RulesMapApi> | null = null;

function theWorker(): Remote<RulesMapApi> {
  worker ??= wrap<RulesMapApi>(
    new Worker(new URL('./rules-map.worker.ts', import.meta.url), { type: 'module' }),
  );
  return worker;
}

/** Rules and what feeds what, laid out beside the page's own work. */
export const useRulesMap = (feeding: readonly Feeding[]) =>
  useQuery({
    queryKey: ['rulesMap', feeding],
    queryFn: async (): Promise<RulesMap> => theWorker().layOutRules(feeding),
    staleTime: Infinity,
  });
