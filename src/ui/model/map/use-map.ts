'use client';

import type { RecordType } from '@/core/model';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { type Remote, wrap } from 'comlink';
import type { MapChoice, MapLayout } from './map-shape';
import type { MapLayoutApi } from './map-layout.worker';

let worker: Remote<MapLayoutApi> | null = null;

function theWorker(): Remote<MapLayoutApi> {
  worker ??= wrap<MapLayoutApi>(
    new Worker(new URL('./map-layout.worker.ts', import.meta.url), { type: 'module' }),
  );
  return worker;
}

/** The map of the types, laid out beside the page's own work. */
export const useMap = (types: readonly RecordType[], version: number, choice: MapChoice) =>
  useQuery({
    queryKey: ['map', version, choice],
    queryFn: async (): Promise<MapLayout> => theWorker().layOut(types, choice),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
