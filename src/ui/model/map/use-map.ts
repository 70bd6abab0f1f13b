'use client';

import type { RecordType } from '@/core/model';
import { useQuery } from '@tanstack/react-query';
import { type Remote, wrap } from 'comlink';
import type { MapLayout } from './map-layout';
import type { MapLayoutApi } from './map-layout.worker';

let worker: Remote<MapLayoutApi> | null = null;

function theWorker(): Remote<MapLayoutApi> {
  worker ??= wrap<MapLayoutApi>(
    new Worker(new URL('./map-layout.worker.ts', import.meta.url), { type: 'module' }),
  );
  return worker;
}

/** The map of the types, laid out beside the page's own work. */
export const useMap = (types: readonly RecordType[], version: number) =>
  useQuery({
    queryKey: ['map', version],
    queryFn: async (): Promise<MapLayout> => theWorker().layOut(types),
    staleTime: Infinity,
  });
