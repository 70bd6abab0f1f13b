'use client';

import type {
  Explanation,
  FamilyData,
  HistoryEntry,
  LivePreview,
  ModelView,
  PersonView,
  RecordList,
  RecordView,
  RuleView,
} from '@/core/verify';
import { type Model, readModel } from '@/core/model';
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import { callApi } from './client';

export const useModelView = () =>
  useQuery({ queryKey: ['types'], queryFn: () => callApi<ModelView>('/types') });

/** The model with its lookups, once it is there. */
export function useModel(): Model | null {
  const { data } = useModelView();
  return useMemo(() => (data ? readModel({ types: data.types }) : null), [data]);
}

export const usePeople = () =>
  useQuery({ queryKey: ['people'], queryFn: () => callApi<{ people: PersonView[] }>('/people') });

export const useRules = () =>
  useQuery({ queryKey: ['rules'], queryFn: () => callApi<{ rules: RuleView[] }>('/rules') });

export const useRule = (id: string | null) =>
  useQuery({
    queryKey: ['rules', id],
    queryFn: () => callApi<RuleView>(`/rules/${id}`),
    enabled: id !== null,
  });

export const useLivePreview = (id: string, isWanted: boolean) =>
  useQuery({
    queryKey: ['preview', id],
    queryFn: () => callApi<LivePreview>(`/rules/${id}/preview`),
    enabled: isWanted,
    gcTime: 0,
    staleTime: 0,
  });

export interface ListQuery {
  readonly search?: string;
  readonly sort?: string;
  readonly limit?: number;
  readonly offset?: number;
  readonly filter?: Readonly<Record<string, string>>;
}

function listPath(type: string, { search, sort, limit, offset, filter }: ListQuery): string {
  const query = new URLSearchParams();
  if (search) query.set('search', search);
  if (sort) query.set('sort', sort);
  if (limit !== undefined) query.set('limit', String(limit));
  if (offset) query.set('offset', String(offset));
  for (const [field, value] of Object.entries(filter ?? {})) query.set(`filter.${field}`, value);
  return `/records/${type}?${query.toString()}`;
}

export const useRecords = (type: string | null, query: ListQuery = {}) =>
  useQuery({
    queryKey: ['records', type, 'list', query],
    queryFn: () => callApi<RecordList>(listPath(type!, query)),
    enabled: type !== null,
    placeholderData: keepPreviousData,
  });

export const useRecord = (type: string, id: string) =>
  useQuery({
    queryKey: ['records', type, 'one', id],
    queryFn: () => callApi<RecordView>(`/records/${type}/${id}`),
  });

export const useHistory = (type: string, id: string) =>
  useQuery({
    queryKey: ['records', type, 'history', id],
    queryFn: () => callApi<{ entries: HistoryEntry[] }>(`/records/${type}/${id}/history`),
  });

export const useExplanation = (type: string, id: string, field: string) =>
  useQuery({
    queryKey: ['records', type, 'explanation', id, field],
    queryFn: () => callApi<Explanation>(`/records/${type}/${id}/explanations/${field}`),
  });

export const useFamily = (type: string | null, id: string | null) =>
  useQuery({
    queryKey: ['records', type, 'family', id],
    queryFn: () => callApi<FamilyData>(`/families/${type}/${id}`),
    enabled: type !== null && id !== null,
  });

/** After a save anything that shows records may have changed; after a change of rules, everything. */
export function useForget(): { records(): Promise<void>; everything(): Promise<void> } {
  const client = useQueryClient();
  return {
    records: () => client.invalidateQueries({ queryKey: ['records'] }),
    everything: () => client.invalidateQueries(),
  };
}
