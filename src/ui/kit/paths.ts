import type { RuleView, UnfinishedRule } from '@/core/api';
import { isLiveForAll } from '@/ui/api/queries';

/** The place on the bench where a rule is tried: as a draft among the live ones, unless it is live as it stands. */
export const benchPath = (rule: RuleView): string =>
  `/bench?type=${rule.definition.type}&rule=${isLiveForAll(rule) ? '' : rule.id}`;

/** The place on the bench where a version of a rule is compared with what is live. */
export const versionPath = (rule: RuleView, version: string): string =>
  `/bench?type=${rule.definition.type}&rule=${rule.id}&version=${version}`;

/** The place on the bench where a proof of a rule is opened. */
export const provenPath = (rule: RuleView, proof: string): string => `${benchPath(rule)}&proof=${proof}`;

/** Where one that is kept unfinished is gone on with. */
export const unfinishedPath = ({ id, rule }: UnfinishedRule): string =>
  `/rules/${rule ?? 'new'}?unfinished=${id}`;
