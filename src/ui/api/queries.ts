'use client';

import type { Dictionary, Explanation, FamilyData, Named, Proof, ReviewFinding, Use } from '@/core/verify';
import type {
  AcceptanceSheet,
  DependantView,
  History,
  InstallationEventView,
  JointPreview,
  LivePreview,
  ModelView,
  MemberView,
  PeopleAnswer,
  PersonView,
  ProofRunView,
  RuleProofs,
  RecordView,
  RequestView,
  RuleVersionView,
  RuleView,
  UnfinishedRule,
  SampleFamilyView,
  SavedListView,
  WorkspaceView,
} from '@/core/api';
import type { FieldRef, Pilot, Rule, RuleDefinition } from '@/core/rules';
import { type Model, readModel } from '@/core/model';
import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import { callApi, callServer } from './client';

export const useWorkspaces = () =>
  useQuery({
    queryKey: ['workspaces'],
    queryFn: () => callServer<{ workspaces: WorkspaceView[] }>('/api/v1/workspaces'),
  });

/** Whom a person's field may name from now on: who is here, and whoever it names already; programs are nobody. */
export const toChoose = (people: readonly MemberView[], named: unknown): readonly MemberView[] =>
  people.filter(({ id, rights, isService }) => id === named || (rights.length > 0 && !isService));

/** Everybody of the installation, for what is done outside of any workspace. */
export const useEverybody = () =>
  useQuery({
    queryKey: ['everybody'],
    queryFn: () => callServer<{ people: PersonView[] }>('/api/v1/people'),
  });

/** What was done to the installation itself, the latest first. */
export const useInstallationEvents = () =>
  useInfiniteQuery({
    queryKey: ['installation-events'],
    queryFn: ({ pageParam }) =>
      callServer<{ events: InstallationEventView[]; next: string | null }>(
        `/api/v1/installation-events?limit=10${pageParam ? `&before=${pageParam}` : ''}`,
      ),
    initialPageParam: '',
    getNextPageParam: ({ next }) => next ?? undefined,
  });

export const useModelView = () =>
  useQuery({ queryKey: ['types'], queryFn: () => callApi<ModelView>('/types') });

/** The model of a workspace with its lookups. */
export const modelOf = ({ types, lists, selections, ruleDefaults, settledDay, timeZone }: ModelView): Model =>
  readModel({ types, lists, selections, ruleDefaults, timeZone }, settledDay);

/** The model with its lookups, once it is there. */
export function useModel(): Model | null {
  const { data } = useModelView();
  return useMemo(() => (data ? modelOf(data) : null), [data]);
}

/** Types, fields and rules in words. */
export const useDictionary = () =>
  useQuery({ queryKey: ['dictionary'], queryFn: () => callApi<Dictionary>('/dictionary') });

/** Where something of the model, or a person, is named. */
export const useUses = (named: Named) =>
  useQuery({
    queryKey: ['uses', named],
    queryFn: () => {
      const { kind: _kind, ...parts } = named;
      return callApi<{ uses: readonly Use[] }>(`/uses?${new URLSearchParams(parts).toString()}`);
    },
  });

export const usePeople = () =>
  useQuery({ queryKey: ['people'], queryFn: () => callApi<PeopleAnswer>('/people') });

/** The lists that are kept with a name. */
export const useLists = () =>
  useQuery({ queryKey: ['lists'], queryFn: () => callApi<{ lists: SavedListView[] }>('/lists') });

/** Rules that are out of the lists and of every check. */
export const useRetiredRules = () =>
  useQuery({
    queryKey: ['rules', 'retired'],
    queryFn: () => callApi<{ rules: RuleView[] }>('/rules?retired=true'),
  });

export const useRules = (isWanted = true) =>
  useQuery({
    queryKey: ['rules'],
    queryFn: () => callApi<{ rules: RuleView[] }>('/rules'),
    enabled: isWanted,
  });

/** The rules that are live, as they are live; pilots for their records. */
export const liveOf = (rules: readonly RuleView[]): Rule[] =>
  rules
    .filter((rule) => rule.state === 'live')
    .map(({ id, name, definition, liveDefinition, pilot }) => ({
      ...{ id, version: id, name, definition: pilot?.tried ?? liveDefinition ?? definition },
      ...(pilot ? { pilot: pilot.scope } : {}),
      ...(pilot?.tried ? { beside: { version: id, definition: liveDefinition ?? definition } } : {}),
    }));

/** Whether a rule is live as it is written, for all records. */
export const isLiveForAll = ({ state, hasChangesNotLive, pilot }: RuleView): boolean =>
  state === 'live' && !hasChangesNotLive && pilot === null;

export const useRule = (id: string | null) =>
  useQuery({
    queryKey: ['rules', id],
    queryFn: () => callApi<RuleView>(`/rules/${id}`),
    enabled: id !== null,
  });

/** What taking a rule live would change, for all records or as a pilot. */
export const useLivePreview = (id: string, pilot: Pilot | null, isWanted: boolean) =>
  useQuery({
    queryKey: ['preview', id, pilot],
    queryFn: () => callApi<LivePreview>(`/rules/${id}/preview`, { method: 'POST', body: { pilot } }),
    enabled: isWanted,
    gcTime: 0,
    staleTime: 0,
  });

/** What taking several rules live in one run would change. */
export const useJointPreview = (rules: readonly string[]) =>
  useQuery({
    queryKey: ['preview', 'several', ...rules],
    queryFn: () => callApi<JointPreview>('/live-rules/preview', { method: 'POST', body: { rules } }),
    gcTime: 0,
    staleTime: 0,
  });

export { exportPath, listPath, type ListQuery, useAnyRecords, useRecordPages, useRecords } from './lists';

/** Milliseconds after which a record of which a value waits is looked at again. */
const WAITING = 1_500;

/** A record, also one in the bin. */
export const useRecord = (type: string, id: string, isWanted = true) =>
  useQuery({
    queryKey: ['records', type, 'one', id],
    queryFn: () => callApi<RecordView>(`/records/${type}/${id}?bin=true`),
    enabled: isWanted,
    // While a value waits for the pace of its rule: it may come round at any moment.
    refetchInterval: ({ state }) => (Object.keys(state.data?.asOf ?? {}).length > 0 ? WAITING : false),
  });

export const useFollowers = (type: string, id: string, isWanted = true) =>
  useQuery({
    queryKey: ['records', type, 'followers', id],
    queryFn: () => callApi<{ followers: DependantView[] }>(`/records/${type}/${id}/followers`),
    enabled: isWanted,
  });

/** What happened to a record, page by page, the latest first. */
export const useHistory = (type: string, id: string) =>
  useInfiniteQuery({
    queryKey: ['records', type, 'history', id],
    queryFn: ({ pageParam }) =>
      callApi<History>(`/records/${type}/${id}/history${pageParam ? `?before=${pageParam}` : ''}`),
    initialPageParam: null as string | null,
    getNextPageParam: (last) => last.next,
  });

/** What a value is made of, page by page. */
export const useExplanation = (type: string, id: string, field: string) =>
  useInfiniteQuery({
    queryKey: ['records', type, 'explanation', id, field],
    queryFn: ({ pageParam }) =>
      callApi<Explanation>(`/records/${type}/${id}/explanations/${field}?from=${pageParam}&limit=200`),
    initialPageParam: 0,
    getNextPageParam: (last) => last.next,
  });

/** A record with all beneath it as it is now, or a family that is kept. */
export const useFamily = (
  type: string | null,
  id: string | null,
  kept: string | null = null,
  whole: string | null = null,
) =>
  useQuery({
    queryKey: kept ? ['families', kept] : ['records', type, 'family', id, whole],
    queryFn: () =>
      callApi<FamilyData>(
        kept ? `/sample-families/${kept}` : `/families/${type}/${id}${whole ? `?whole=${whole}` : ''}`,
      ),
    enabled: kept !== null || (type !== null && id !== null),
  });

/** The sample families that are kept with a name. */
export const useFamilies = () =>
  useQuery({
    queryKey: ['families'],
    queryFn: () => callApi<{ families: SampleFamilyView[] }>('/sample-families'),
  });

/** A rule's proofs, run through its latest version. */
export const useProofs = (rule: string | null) =>
  useQuery({ ...proofsOf(rule ?? ''), enabled: rule !== null });

export const proofsOf = (rule: string) => ({
  queryKey: ['rules', rule, 'proofs'],
  queryFn: () => callApi<{ proofs: ProofRunView[] }>(`/rules/${rule}/proofs`),
});

/** A proof with all that it runs on. */
export const useProof = (id: string | null) =>
  useQuery({
    queryKey: ['rules', 'proof', id],
    queryFn: () => callApi<Proof>(`/proofs/${id}`),
    enabled: id !== null,
  });

/** A rule's versions, the newest first. */
export const useRuleVersions = (rule: string | null) =>
  useQuery({
    queryKey: ['rules', rule, 'versions'],
    queryFn: () => callApi<{ versions: RuleVersionView[] }>(`/rules/${rule}/versions`),
    enabled: rule !== null,
  });

/** What the data says of a rule as it is written; `null` while it can't be asked. `of` names what is measured: asked again when that is other. */
export const useMeasures = (definition: RuleDefinition | null, of: readonly FieldRef[]) =>
  useQuery({
    queryKey: ['records', 'measures', of],
    queryFn: () =>
      callApi<{ findings: ReviewFinding[] }>('/rule-reviews', { method: 'POST', body: { definition } }),
    enabled: definition !== null && of.length > 0,
    retry: false,
  });

/** The record on which a rule, as it is written, tells most; not asked for while that is `null`. */
export const useRuleSample = (definition: RuleDefinition | null) =>
  useQuery({
    queryKey: ['records', 'sample', definition],
    queryFn: () => callApi<{ id: string | null }>('/rule-samples', { method: 'POST', body: { definition } }),
    enabled: definition !== null,
    staleTime: Infinity,
    retry: false,
  });

/** Rules of which parts aren't chosen yet, the latest first. */
export const useUnfinishedRules = () =>
  useQuery({
    queryKey: ['rules', 'unfinished'],
    queryFn: () => callApi<{ rules: UnfinishedRule[] }>('/unfinished-rules'),
  });

/** How the proofs of all rules stand. */
export const useProofStandings = () =>
  useQuery({
    queryKey: ['rules', 'proofs'],
    queryFn: () => callApi<{ rules: RuleProofs[] }>('/proofs'),
  });

/** What colleagues asked for. It hangs on rules and proofs, so it is asked again with these. */
export const useRequests = (isWanted = true) =>
  useQuery({
    queryKey: ['rules', 'requests'],
    queryFn: () => callApi<{ requests: RequestView[] }>('/requests'),
    enabled: isWanted,
  });

/** All that shows whether a request is met. */
export const useAcceptanceSheet = (request: string) =>
  useQuery({
    queryKey: ['rules', 'requests', request, 'sheet'],
    queryFn: () => callApi<AcceptanceSheet>(`/requests/${request}/sheet`),
  });

/** After a save anything that shows records may have changed; after a change of rules, everything. */
export function useInvalidate(): {
  records(): Promise<void>;
  families(): Promise<void>;
  everything(): Promise<void>;
} {
  const client = useQueryClient();
  return {
    records: () => client.invalidateQueries({ queryKey: ['records'] }),
    families: () => client.invalidateQueries({ queryKey: ['families'] }),
    everything: () => client.invalidateQueries(),
  };
}
