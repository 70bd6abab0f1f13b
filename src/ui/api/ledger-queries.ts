'use client';

import type { GroupPage, RunGroups, RunLeft, RunList, RunView } from '@/core/api';
import type { GroupKey } from '@/core/verify';
import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { callApi } from './client';

/** The ledger; `filter` as it stands in an address. */
export const useRuns = (filter = '') =>
  useInfiniteQuery({
    queryKey: ['records', 'runs', filter],
    queryFn: ({ pageParam }) =>
      callApi<RunList>(
        ['/runs?limit=50', filter, pageParam ? `before=${pageParam}` : ''].filter(Boolean).join('&'),
      ),
    placeholderData: keepPreviousData,
    initialPageParam: null as string | null,
    getNextPageParam: (last) => last.next,
  });

/** A run, page by page. */
export const useRun = (run: string) =>
  useQuery({ queryKey: ['runs', run], queryFn: () => callApi<RunView>(`/runs/${run}`) });

/** What is alike in a run of any size. */
export const useRunGroups = (run: string) =>
  useQuery({ queryKey: ['runs', run, 'groups'], queryFn: () => callApi<RunGroups>(`/runs/${run}/groups`) });

/** What rules looked at in a run and left. */
export const useRunLeft = (run: string) =>
  useQuery({ queryKey: ['runs', run, 'left'], queryFn: () => callApi<RunLeft>(`/runs/${run}/left`) });

/** Changes of a run that are alike, page by page. */
export const useRunGroup = (run: string, { wave, kind, type, field, rule }: GroupKey, search: string) =>
  useInfiniteQuery({
    queryKey: ['runs', run, 'groups', wave, kind, type, field, rule?.id ?? null, search],
    queryFn: ({ pageParam }) => {
      const query = new URLSearchParams({ wave: String(wave), kind, type, field, search });
      if (rule) query.set('rule', rule.id);
      if (pageParam !== null) query.set('after', pageParam);
      return callApi<GroupPage>(`/runs/${run}/groups/changes?${query.toString()}`);
    },
    initialPageParam: null as string | null,
    getNextPageParam: (last) => last.next,
  });
