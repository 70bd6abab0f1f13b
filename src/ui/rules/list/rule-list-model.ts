import type { ModelView, RequestView, RuleView } from '@/core/api';
import { everyWord } from '@/ui/kit/every-word';
import { KIND_OF_RULE } from '@/ui/theme/kinds-of-rule';
import type { ProofStanding } from '@/core/verify';

/** What a list of rules can be narrowed by; each as it stands in the page's address. */
export const FILTERS = ['type', 'kind', 'state', 'pace', 'proofs', 'findings', 'request', 'tag'] as const;
export type FilterName = (typeof FILTERS)[number];
/** Names under which filters stand in the page's address. */
export const IN_ADDRESS = ['search', ...FILTERS] as const;
export type Filters = Readonly<Partial<Record<FilterName | 'search', string>>>;

export const GROUPINGS = ['type', 'kind', 'state', 'request', 'tag'] as const;
export type Grouping = (typeof GROUPINGS)[number];

/** What rules are listed with. */
export interface Beside {
  readonly model: Pick<ModelView, 'types'>;
  readonly requests: readonly Pick<RequestView, 'id' | 'name' | 'rules'>[];
  /** How the proofs of each rule stand; a rule that has none isn't there. `null` until that is known. */
  readonly proofs: readonly ProofStanding[] | null;
}

/** The key that stands for rules without a request or a tag. */
export const NONE = 'none';

export const STATES = {
  live: 'Live',
  pilot: 'Pilot',
  changed: 'Change not live',
  draft: 'Draft',
  paused: 'Paused',
} as const;

const PACES = {
  withTheSave: 'With the save',
  soonAfter: 'Soon after',
  timetable: 'At set times',
  onRequest: 'On request',
} as const;

const PROOFS = { none: 'No proof', hold: 'All hold', fail: 'Some don’t hold' } as const;
const FINDINGS = { hindered: 'Can’t go live', nothing: 'Nothing found' } as const;

/** What holds of a rule by each filter; several where it stands in several places. */
const READ = {
  type: ({ definition }) => [definition.type],
  kind: ({ definition }) => [definition.kind],
  state: statesOf,
  pace: ({ definition: { pace } }) => [typeof pace === 'string' ? pace : pace.kind],
  proofs: ({ id }, { proofs }) => {
    if (!proofs) return [];
    const own = proofs.find(({ rule }) => rule === id);
    return [!own || own.proofs === 0 ? 'none' : own.held < own.proofs ? 'fail' : 'hold'];
  },
  findings: ({ findings }) => [findings.length > 0 ? 'hindered' : 'nothing'],
  request: ({ id }, { requests }) => {
    const asked = requests.filter(({ rules }) => rules.some((rule) => rule.id === id));
    return asked.length > 0 ? asked.map((request) => request.id) : [NONE];
  },
  tag: ({ tags }) => (tags.length > 0 ? tags.map((tag) => tag.toLowerCase()) : [NONE]),
} as const satisfies Readonly<Record<FilterName, (rule: RuleView, beside: Beside) => readonly string[]>>;

function statesOf({ state, pilot, hasChangesNotLive }: RuleView): string[] {
  const runs = pilot ? (pilot.tried ? [state, 'pilot'] : ['pilot']) : [state];
  return [...runs, ...(hasChangesNotLive ? ['changed'] : [])];
}

export interface Choice {
  readonly value: string;
  readonly label: string;
}

const choices = (words: Readonly<Record<string, string>>): Choice[] =>
  Object.entries(words).map(([value, label]) => ({ value, label }));

/** What can be chosen of a filter, in the order in which groups stand too. */
export function choicesOf(filter: FilterName, rules: readonly RuleView[], beside: Beside): readonly Choice[] {
  const all = allChoices(filter, rules, beside);
  const there = new Set(rules.flatMap((rule) => READ[filter](rule, beside)));
  return all.filter(({ value }) => there.has(value));
}

function allChoices(
  filter: FilterName,
  rules: readonly RuleView[],
  { model, requests }: Beside,
): readonly Choice[] {
  switch (filter) {
    case 'type':
      return model.types.map(({ key, plural }) => ({ value: key, label: plural }));
    case 'kind':
      return choices(KIND_OF_RULE);
    case 'state':
      return choices(STATES);
    case 'pace':
      return choices(PACES);
    case 'proofs':
      return choices(PROOFS);
    case 'findings':
      return choices(FINDINGS);
    case 'request':
      return [
        ...requests.map(({ id, name }) => ({ value: id, label: name })),
        { value: NONE, label: 'For no request' },
      ];
    case 'tag':
      return [...tagsOf(rules), { value: NONE, label: 'Without a tag' }];
  }
}

/** All tags, each as it is written first. */
export function tagsOf(rules: readonly RuleView[]): readonly Choice[] {
  const tags = new Map<string, string>();
  for (const tag of rules.flatMap((rule) => rule.tags))
    if (!tags.has(tag.toLowerCase())) tags.set(tag.toLowerCase(), tag);
  return [...tags]
    .map(([value, label]) => ({ value, label }))
    .sort((a, b) => a.label.localeCompare(b.label, 'en'));
}

const plain = (text: string): string =>
  text
    .normalize('NFD')
    .replaceAll(/\p{Diacritic}/gu, '')
    .toLowerCase();

export function filteredRules(
  rules: readonly RuleView[],
  { search = '', ...filters }: Filters,
  beside: Beside,
): readonly RuleView[] {
  // Every word must stand in the name, the sentence, the note or a tag.
  const holds = everyWord(search, plain);
  const wanted = FILTERS.flatMap((filter) => {
    const value = filters[filter];
    return value === undefined ? [] : [{ filter, value }];
  });
  return rules.filter(
    (rule) =>
      holds([rule.name, rule.sentence, rule.note, ...rule.tags].join('\n')) &&
      wanted.every(({ filter, value }) => READ[filter](rule, beside).includes(value)),
  );
}

export interface RuleGroup {
  readonly key: string;
  readonly label: string;
  readonly rules: readonly RuleView[];
}

/** Rules under what they have alike; one of several requests or tags stands under each of these. */
export function groupedRules(rules: readonly RuleView[], by: Grouping, beside: Beside): readonly RuleGroup[] {
  const under = new Map<string, RuleView[]>();
  for (const rule of rules)
    for (const key of READ[by](rule, beside).slice(0, by === 'state' ? 1 : undefined)) {
      const group = under.get(key);
      if (group) group.push(rule);
      else under.set(key, [rule]);
    }
  return choicesOf(by, rules, beside).flatMap(({ value, label }) => {
    const group = under.get(value);
    return group ? [{ key: value, label, rules: group }] : [];
  });
}
