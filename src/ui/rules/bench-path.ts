import type { RuleView } from '@/core/verify';

/** The place on the bench where a rule is tried: as a draft among the live ones, unless it is live as it stands. */
export const benchPath = ({ id, state, hasChangesNotLive, definition }: RuleView): string =>
  `/bench?type=${definition.type}&rule=${state === 'live' && !hasChangesNotLive ? '' : id}`;

/** The place on the bench where a proof of a rule is opened. */
export const provenPath = (rule: RuleView, proof: string): string => `${benchPath(rule)}&proof=${proof}`;
