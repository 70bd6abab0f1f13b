import type { RuleState } from '@/core/rules';

/** Something that must be true for a request to be met, with the proofs that show it. */
export interface RequestPoint {
  readonly text: string;
  /** Ids of proofs of the request's rules. */
  readonly proofs: readonly string[];
}

/** A rule of a request, and how its proofs stand. */
export interface RequestedRule {
  readonly id: string;
  readonly name: string;
  readonly state: RuleState;
  readonly hasChangesNotLive: boolean;
  /** It runs for some records only. */
  readonly isPilot: boolean;
  readonly proofs: readonly { readonly id: string; readonly name: string; readonly isHeld: boolean }[];
}

/** What is still to be done for a request, in words, with the rule that it is about. */
export interface Wanting {
  readonly rule: string | null;
  readonly words: string;
}

export interface RequestStanding {
  /** It has rules, all of them are live as they are written, each has a proof, all proofs hold, and each point is shown by one. */
  readonly isMet: boolean;
  readonly wanting: readonly Wanting[];
  /** Point by point: shown by proofs that all hold. */
  readonly points: readonly boolean[];
}

/** How a request stands. Proofs that are of none of its rules, or gone, show nothing. */
export function requestStanding(
  points: readonly RequestPoint[],
  rules: readonly RequestedRule[],
): RequestStanding {
  const held = new Map(rules.flatMap(({ proofs }) => proofs.map(({ id, isHeld }) => [id, isHeld] as const)));
  const shown = points.map(({ proofs }) => {
    const known = proofs.filter((id) => held.has(id));
    return known.length > 0 && known.every((id) => held.get(id));
  });
  const wanting: Wanting[] = [
    ...(rules.length === 0 ? [{ rule: null, words: 'No rule is written for it yet.' }] : []),
    ...rules.flatMap((rule) => wantedOf(rule).map((words) => ({ rule: rule.id, words }))),
    ...points.flatMap(({ text, proofs }, at) => {
      if (shown[at]) return [];
      const isMissed = proofs.some((id) => held.get(id) === false);
      const words = isMissed
        ? `A proof that shows it doesn’t hold: ${text}`
        : `No proof shows it yet: ${text}`;
      return [{ rule: null, words }];
    }),
  ];
  return { isMet: wanting.length === 0, wanting, points: shown };
}

function wantedOf({ name, state, hasChangesNotLive, isPilot, proofs }: RequestedRule): string[] {
  const missed = proofs.filter(({ isHeld }) => !isHeld).length;
  const states: Record<RuleState, string | null> = {
    draft: `“${name}” isn’t live yet.`,
    live: isPilot
      ? `“${name}” runs as a pilot only; take it live for all.`
      : hasChangesNotLive
        ? `“${name}” was changed since it is live; take the change live too.`
        : null,
    paused: `“${name}” is paused.`,
    retired: `“${name}” is retired.`,
  };
  const [stateWords, proofWords] = [
    states[state],
    proofs.length === 0
      ? `“${name}” has no proof.`
      : missed > 0
        ? `${missed} of ${proofs.length} proofs of “${name}” ${missed === 1 ? 'doesn’t' : 'don’t'} hold.`
        : null,
  ];
  return [stateWords, proofWords].filter((words) => words !== null);
}
