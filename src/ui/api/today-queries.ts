'use client';

import type {
  ApprovalView,
  FilledView,
  MessageView,
  NoticeView,
  ProposalList,
  QueuedSaveView,
} from '@/core/api';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { callApi } from './client';

/** What waits for people, or what was decided; looked at again now and then, since others save too. */
export const useProposals = (isDecided = false, isWanted = true) =>
  useQuery({
    queryKey: ['records', 'proposals', isDecided],
    queryFn: () => callApi<ProposalList>(`/proposals${isDecided ? '?decided=true' : ''}`),
    placeholderData: keepPreviousData,
    refetchInterval: PROPOSED,
    enabled: isWanted,
  });

/** What went wrong by itself and wants a person. */
export const useNotices = () =>
  useQuery({
    queryKey: ['records', 'notices'],
    queryFn: () => callApi<{ notices: NoticeView[] }>('/notices'),
    refetchInterval: PROPOSED,
  });

/** What waits for somebody else to approve it, and what was decided last. */
export const useApprovals = () =>
  useQuery({
    queryKey: ['records', 'approvals'],
    queryFn: () => callApi<{ approvals: ApprovalView[] }>('/approvals'),
    refetchInterval: PROPOSED,
  });

export const useQueued = () =>
  useQuery({
    queryKey: ['records', 'queued'],
    queryFn: () => callApi<{ saves: QueuedSaveView[] }>('/queued-saves'),
    refetchInterval: QUEUED,
  });

/** Milliseconds after which it is looked whether they are saved. */
const QUEUED = 5_000;

/** Milliseconds after which the proposals are looked at again. */
const PROPOSED = 30_000;

/** What rules wrote to people in charge. */
export const useMessages = (isWanted: boolean) =>
  useQuery({
    queryKey: ['records', 'messages'],
    queryFn: () => callApi<{ messages: MessageView[] }>('/messages'),
    enabled: isWanted,
    refetchInterval: PROPOSED,
  });

/** What a rule would make for a record. */
export const useFilled = (rule: string | null, source: string | null) =>
  useQuery({
    queryKey: ['records', 'filled', rule, source],
    queryFn: () => callApi<FilledView>(`/rules/${rule}/filled/${source}`),
    enabled: rule !== null && source !== null,
    gcTime: 0,
    retry: false,
  });
