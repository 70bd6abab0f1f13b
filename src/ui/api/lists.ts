'use client';

import type { RecordList } from '@/core/api';
import type { Expression } from '@/core/expression';
import { certain } from '@/core/values';
import { keepPreviousData, useInfiniteQuery, useQueries, useQuery } from '@tanstack/react-query';
import { apiPath, callApi } from './client';

export interface ListQuery {
  readonly search?: string;
  readonly sort?: string;
  readonly limit?: number;
  readonly filter?: Readonly<Record<string, string>>;
  /** By a link: over which link to itself of what it names, and from which record on down. */
  readonly beneath?: Readonly<Record<string, { readonly through: string; readonly id: string }>>;
  readonly condition?: Expression | null;
  readonly isBin?: boolean;
}

/** The address of a page of a list. */
export function listPath(
  type: string,
  { search, sort, limit, filter, beneath, condition, isBin }: ListQuery,
  after?: string | null,
): string {
  const query = new URLSearchParams();
  if (search) query.set('search', search);
  if (sort) query.set('sort', sort);
  if (limit !== undefined) query.set('limit', String(limit));
  if (condition) query.set('condition', JSON.stringify(condition));
  if (isBin) query.set('bin', 'true');
  if (after) query.set('after', after);
  for (const [field, value] of Object.entries(filter ?? {})) query.set(`filter.${field}`, value);
  for (const [link, { through, id }] of Object.entries(beneath ?? {}))
    query.set(`beneath.${link}`, `${through}:${id}`);
  return `/records/${type}?${query.toString()}`;
}

/** The address of a list as a file; its format goes after it. */
export const exportPath = (type: string, query: ListQuery): string =>
  `${apiPath(listPath(type, query)).replace('?', '/export?')}`;

export const useRecords = (type: string | null, query: ListQuery = {}) =>
  useQuery({
    queryKey: ['records', type, 'list', query],
    queryFn: () => callApi<RecordList>(listPath(certain(type), query)),
    enabled: type !== null,
    placeholderData: keepPreviousData,
  });

/** Whether lists have anything in them, one by one; `undefined` while that isn't known. */
export const useAnyRecords = (lists: readonly { readonly type: string; readonly query: ListQuery }[]) =>
  useQueries({
    queries: lists.map(({ type, query }) => {
      const one = { ...query, limit: 1 };
      return {
        queryKey: ['records', type, 'list', one],
        queryFn: () => callApi<RecordList>(listPath(type, one)),
      };
    }),
  }).map(({ data }) => data && data.records.length > 0);

/** A list that goes on as it is scrolled. */
export const useRecordPages = (type: string, query: ListQuery) =>
  useInfiniteQuery({
    queryKey: ['records', type, 'pages', query],
    queryFn: ({ pageParam }) => callApi<RecordList>(listPath(type, query, pageParam)),
    initialPageParam: null as string | null,
    getNextPageParam: (last) => last.next,
    placeholderData: keepPreviousData,
  });
