/** Words that are Oikon's own, or that it means more by than everyday speech. */
export const TERMS = {
  rollUp: [
    'roll-up',
    'A rule that keeps a field of a record at what the records beneath it come to: a sum, a count, the latest.',
  ],
  cascade: ['cascade', 'A rule that gives values of a record to those beneath it, beside it or above it.'],
  formula: [
    'formula',
    'A rule that keeps a field at what an expression on the record, and what it hangs under, comes to.',
  ],
  create: ['create rule', 'A rule that makes a record when another needs one, once or each time.'],
  link: ['link rule', 'A rule that finds which record another belongs to, and links it.'],
  kept: [
    'kept',
    'The field always holds what its rule comes to. People can’t enter it; the refusal names the rule.',
  ],
  reacts: [
    'reacts',
    'The rule writes when something changes, and not otherwise. What people enter afterwards stands.',
  ],
  draft: ['draft', 'A rule as it is being written. It is worked out on samples, and changes no record.'],
  live: ['live', 'The rule acts on every save, and has filled what was there when it was taken live.'],
  pilot: [
    'pilot',
    'The rule is live for some records only, so that it can be watched on them first. All others are as before; a change of a live rule is tried beside it, and on all others the rule goes on as it was.',
  ],
  paused: ['paused', 'The rule doesn’t act. What it wrote stands still until it is taken live again.'],
  retired: [
    'retired',
    'The rule is out of the lists and of every check. Its history stays, and it can be taken back.',
  ],
  ripple: [
    'ripple',
    'All that follows from one save: what rules write, what follows from that, wave by wave.',
  ],
  family: ['family', 'A record with what lies beneath and beside it: the sample on which rules are tried.'],
  bench: ['bench', 'A place where edits are staged on a family, and their ripple is seen. It saves nothing.'],
  proof: [
    'proof',
    'Edits on a sample, with what must come of them. It is worked out again whenever a rule changes.',
  ],
  request: ['request', 'What somebody asked rules to do, with the cases by which it is accepted.'],
  run: [
    'run',
    'One save with all that followed from it. The ledger has every one, and undoes it as a whole.',
  ],
  pace: ['pace', 'When a rule catches up: with the save, soon after it, at night, or when somebody asks.'],
  bridge: ['bridge', 'A type that joins two others, many to many: each of its records names one of either.'],
} as const satisfies Readonly<Record<string, readonly [name: string, means: string]>>;

export type TermKey = keyof typeof TERMS;

export const termName = (key: TermKey): string => TERMS[key][0];
export const termMeans = (key: TermKey): string => TERMS[key][1];
