import type { TermKey } from './terms';

/** What is told of a place, beside it. */
export interface HelpPage {
  readonly title: string;
  /** What the place is for, in a sentence. */
  readonly lead: string;
  /** The name of its picture among those of the README; what is to be seen there. */
  readonly picture: readonly [file: string, shows: string] | null;
  /** What can be done there, most wanted first. */
  readonly ways: readonly string[];
  readonly terms: readonly TermKey[];
}

interface Placed extends HelpPage {
  /** The addresses that it is about; the first page that fits is shown. */
  readonly at: RegExp;
}

const PAGES: readonly Placed[] = [
  {
    at: /^\/today/,
    title: 'Today',
    lead: 'What waits for you, and what happened while you were away.',
    picture: ['today', 'proposals of rules that wait to be approved, messages and runs'],
    ways: [
      'Approve what rules propose to make, change it first, or refuse it with a reason. Several can be marked at once.',
      'Approve what somebody asked for, where two people are wanted for it; nobody approves their own.',
      'Choose which record a link rule should take where it found several.',
      'Bring rules of a slower pace up to date.',
      'With nothing waiting, the page says what to do next.',
    ],
    terms: ['create', 'link', 'pace'],
  },
  {
    at: /^\/requests\/[^/]+\/sheet/,
    title: 'Acceptance sheet',
    lead: 'A request with its cases and what they come to, for whoever accepts it: to read, print or send.',
    picture: ['acceptance', 'cases of a request with what each comes to'],
    ways: ['Print it, or save it as a file.', 'Each case can be opened on the bench.'],
    terms: ['request', 'proof'],
  },
  {
    at: /^\/requests/,
    title: 'Requests',
    lead: 'What people asked rules to do, who is on it, and whether it is proven.',
    picture: ['requests', 'requests with their points, rules and days'],
    ways: [
      'Write down what is wanted, point by point, in the words of whoever wants it.',
      'Put rules to a request; their proofs show what is covered.',
      'Open the acceptance sheet for whoever decides.',
    ],
    terms: ['request', 'proof', 'draft'],
  },
  {
    at: /^\/rules\/(?!review|new)[^/]+/,
    title: 'A rule',
    lead: 'The rule as one sentence, what it comes to on a sample, and what shows that it is right.',
    picture: ['rule', 'a rule’s sentence beside its worked example and proofs'],
    ways: [
      'Press a part of the sentence to change it. Tab goes from part to part, Enter opens one, typing narrows its list.',
      'Watch the worked example: it says what counts, what doesn’t, and why.',
      'Save it as a draft as often as you like. No record changes by a draft.',
      'Look for ways in which it could be wrong that no proof would notice, and keep a proof for each.',
      'Take it live: first you see how many records change, by how much, and which proofs fail.',
    ],
    terms: ['kept', 'reacts', 'draft', 'live', 'pilot', 'proof', 'pace'],
  },
  {
    at: /^\/rules\/new/,
    title: 'Writing a rule',
    lead: 'A rule is a sentence whose parts you choose. Each part offers what fits those before it.',
    picture: ['formula', 'a formula as it is being written'],
    ways: [
      'Choose the kind first: what the sentence looks like hangs on it.',
      'What doesn’t fit stands grey, with why. A field that is missing is made from within the sentence.',
      'One total for each option of a choice: more …, a field for each option.',
      'What was begun and not saved is kept in this browser, and offered again; Keep it unfinished, and anybody can go on with it.',
    ],
    terms: ['rollUp', 'cascade', 'formula', 'create', 'link', 'kept', 'reacts'],
  },
  {
    at: /^\/rules\/review/,
    title: 'Review',
    lead: 'What is better looked at, in all rules: findings, proofs that fail, rules without any.',
    picture: ['review', 'findings of several rules, with what each says'],
    ways: [
      'Open a finding for what it means and what mends it.',
      'Accept one with a reason, and it is quiet until the rule changes.',
    ],
    terms: ['proof', 'live', 'draft'],
  },
  {
    at: /^\/rules/,
    title: 'Rules',
    lead: 'Every rule of the workspace, its state, and what speaks against it.',
    picture: ['rules', 'the list of rules, grouped by type'],
    ways: [
      'Type to find rules by name, sentence, note, tag or a field that they name.',
      'Narrow the list by type, kind, state, proofs or findings; put it together by one of these.',
      'Mark several, and pause them, tag them, or take them live in one run.',
      'The map shows which rule feeds which.',
    ],
    terms: ['rollUp', 'cascade', 'formula', 'create', 'link', 'live', 'paused', 'retired'],
  },
  {
    at: /^\/bench/,
    title: 'Bench',
    lead: 'Try any edit on a family of records, and see all that would follow. Nothing is saved.',
    picture: ['bench', 'a family with a staged edit and its ripple'],
    ways: [
      'Press a value and enter another: its ripple stands beside the family at once.',
      'Add records, move them, remove them; stage several saves, by other people, on other days.',
      'Take drafts in, and see what they would do beside the live rules.',
      'Show only what changed where the family is large.',
      'Keep what you see as a proof, if it is as it should be.',
    ],
    terms: ['bench', 'family', 'ripple', 'proof', 'draft'],
  },
  {
    at: /^\/records\/[^/]+\/import/,
    title: 'Taking in a file',
    lead: 'Rows of a file become records or change them: rehearsed first, then one run that can be undone.',
    picture: ['import', 'a file’s columns beside what it would do'],
    ways: [
      'Choose a file: CSV, a workbook (XLSX) or JSON Lines. Or paste cells that you copied.',
      'Say which column fills which field. A link finds its record by name, or by what you choose.',
      'Choose a key where rows change records that are there; rows that aren’t found are made, or refused.',
      'Rows that can’t be taken in are told with their line and why, and leave as a file to be corrected.',
    ],
    terms: ['run', 'ripple'],
  },
  {
    at: /^\/records\/[^/]+\/[^/]+/,
    title: 'A record',
    lead: 'Its fields, what it hangs under and what hangs beneath it.',
    picture: ['record', 'a record with its fields and what lies beneath'],
    ways: [
      'Press the sign beside a value that a rule keeps: it opens into what it is made of, down to what people entered.',
      'Change fields and save with Ctrl S. Before it is saved you see what would follow.',
      'History says who or which rule wrote each value, when and why.',
    ],
    terms: ['kept', 'ripple', 'run'],
  },
  {
    at: /^\/(records|joined)/,
    title: 'Records',
    lead: 'Records of a type as a list: sorted, narrowed, edited together.',
    picture: ['list', 'a list of records with its columns'],
    ways: [
      'Choose columns, of linked records too; sort and narrow by any of them; keep the list under a name.',
      'Mark several, or all that are found, and give them a value: you see what follows first.',
      'Import takes in a file; Export saves what you see as CSV or XLSX.',
    ],
    terms: ['kept', 'family'],
  },
  {
    at: /^\/model/,
    title: 'Model',
    lead: 'Types of record, their fields, and how they hang together.',
    picture: ['model', 'the map of types and links'],
    ways: [
      'Begin with a file: its columns become fields, and each sheet of a workbook a type.',
      'Press a type on the map for its fields; add, change or remove them: you see first what that would do to values and rules.',
      'Ask where a type, a field or an option is used before you change it.',
      'Export has the dictionary of types, fields and rules, and bundles to take along.',
    ],
    terms: ['bridge', 'kept', 'rollUp'],
  },
  {
    at: /^\/ledger/,
    title: 'Ledger',
    lead: 'Every run: who saved what, what rules wrote then, and the way back.',
    picture: null,
    ways: [
      'Find runs by person, kind, type, rule, days or words.',
      'Open one: what is alike stands in one line, with the largest changes, and opens into records.',
      'Undo a run: what was changed since stays, and is told.',
    ],
    terms: ['run', 'ripple'],
  },
  {
    at: /^\/settings/,
    title: 'Settings',
    lead: 'Who takes part in the workspace, what they may do in it, and what they see of it.',
    picture: ['settings', 'what each role may, and what somebody else approves'],
    ways: [
      'Let somebody in, say what they are, or that they are no longer here: it counts at once.',
      'Give a group a role: everybody in it has that besides their own.',
      'Make a role of your own, and say what it sees: types, fields, and whose records.',
      'Add a program that acts by itself, and make tokens for it.',
      'Say what somebody else approves before it is done; what waits for that stands in Today.',
    ],
    terms: ['live'],
  },
  {
    at: /^\/compare/,
    title: 'Comparing',
    lead: 'What is otherwise here than in another workspace or a bundle, and taking over what you choose.',
    picture: null,
    ways: [
      'Choose with what to compare.',
      'Mark what is to be taken over; you see what that would do first.',
    ],
    terms: ['live', 'draft'],
  },
];

/** The page of help for a place (`/rules`). */
export const helpFor = (place: string): HelpPage =>
  PAGES.find(({ at }) => at.test(place)) ?? (PAGES[0] as HelpPage);

export const HELP_PAGES: readonly HelpPage[] = PAGES;
