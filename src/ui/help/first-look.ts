import type { RuleView } from '@/core/api';
import { freeName } from '@/core/free-name';
import type { Happening } from '@/ui/kit/happened';

const NAME = 'A first look';

/** What a step waits for: that a rule's page is open, or that a person did something. */
export type Deed = 'read' | Happening;

/** A first look that was begun: in a copy of a workspace, so that ending it undoes all that was done. */
export interface FirstLook {
  /** Of the copy. */
  readonly workspace: string;
  readonly name: string;
  /** The workspace that it is a copy of. */
  readonly from: string;
  readonly done: readonly Deed[];
}

export function isFirstLook(value: unknown): value is FirstLook {
  if (typeof value !== 'object' || value === null) return false;
  const { workspace, name, from, done } = value as Partial<Record<keyof FirstLook, unknown>>;
  return [workspace, name, from].every((text) => typeof text === 'string') && Array.isArray(done);
}

/** What the copy of a first look is called: with a number after it where others have one. */
export function lookName(taken: readonly string[]): string {
  const has = new Set(taken.map((one) => one.toLowerCase()));
  return freeName(
    (number) => (number === 1 ? NAME : `${NAME} ${number}`),
    (name) => has.has(name.toLowerCase()),
  );
}

export interface LookStep {
  readonly deed: Deed;
  readonly title: string;
  readonly text: string;
  /** Where it is done. */
  readonly path: string;
}

/** Rules that a first look goes through: one that is live and brings records together, and a draft. */
export interface LookRules {
  readonly read: RuleView;
  readonly draft: RuleView;
}

/** The rules for a first look, where the workspace has such. */
export function lookRules(rules: readonly RuleView[]): LookRules | null {
  const rollUps = rules.filter(({ definition }) => definition.kind === 'rollUp');
  const live = rollUps.filter(({ state }) => state === 'live');
  const draft = rollUps.find(({ state }) => state === 'draft');
  // A sum is understood at once, and on the draft's own type its records are the same.
  const read =
    live.find(({ definition }) => isSum(definition) && draft && definition.type === draft.definition.type) ??
    live.find(({ definition }) => isSum(definition)) ??
    live[0];
  return read && draft ? { read, draft } : null;
}

const isSum = (definition: RuleView['definition']): boolean =>
  definition.kind === 'rollUp' && definition.aggregate === 'sum';

/** The five steps, over rules of the workspace. */
export const lookSteps = ({ read, draft }: LookRules): readonly LookStep[] => [
  {
    ...{ deed: 'read', path: `/rules/${read.id}`, title: 'Read a rule' },
    text: `“${read.name}” is a rule as one sentence. Beside it stands a worked example: which records count, which don’t, and why.`,
  },
  {
    ...{ deed: 'edited', path: `/bench?type=${read.definition.type}`, title: 'Change a value on the bench' },
    text: 'Press any value of the family that people may enter, and give it another. What follows stands beside it, wave by wave. Nothing is saved.',
  },
  {
    ...{ deed: 'opened', path: `/records/${read.definition.type}`, title: 'Open a total' },
    text: 'Open a record, and press the sign beside a value that a rule keeps. It opens into what it is made of, as far down as you like.',
  },
  {
    ...{ deed: 'proofKept', path: `/bench?type=${read.definition.type}`, title: 'Keep a proof' },
    text: 'Change a value on the bench once more, and press “Keep …”, then “As a proof of a rule …”. From now on every change of a rule is held against it.',
  },
  {
    ...{ deed: 'takenLive', path: `/rules/${draft.id}`, title: 'Take a draft live' },
    text: `“${draft.name}” is a draft. Press “Take it live …”: first you see what would change, then it is done, in one run.`,
  },
];
