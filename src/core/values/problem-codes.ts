/**
 * What can be wrong, by what it is about. Codes are stable: programs decide by them, and proofs name them. A code that isn't here doesn't
 * compile; one that is used no more stays, since a stored proof may name it.
 */
export const PROBLEM_CODES = {
  /** The address of a request. */
  address: ['character', 'form'],
  /** An agreement to a request’s acceptance sheet. */
  agreement: ['name'],
  /** What somebody else approves. */
  approval: ['decided', 'moved', 'needed', 'own', 'reason', 'route'],
  /** The body of a request. */
  body: ['broken', 'json', 'line', 'record', 'size', 'stalled', 'text', 'type'],
  /** A bundle. */
  bundle: [
    'damaged',
    'format',
    'made',
    'newer',
    'person',
    'proof',
    'records',
    'request',
    'timeZone',
    'twice',
  ],
  /** A cascade, as it is written and as it acts. */
  cascade: [
    'allTheWay',
    'atCreation',
    'empty',
    'inStep',
    'itself',
    'many',
    'pace',
    'rates',
    'same',
    'size',
    'tests',
    'text',
    'twice',
    'watched',
  ],
  /** A change of the model or of rules. */
  change: ['busy', 'meanwhile'],
  /** A create rule. */
  create: ['afterwards', 'endless', 'link', 'required', 'returning', 'way'],
  /** PostgreSQL. */
  database: ['away'],
  /** A relative day. */
  day: ['ahead', 'away', 'financialYear', 'hours', 'range'],
  /** Records that go into the bin. */
  delete: ['children'],
  /** An edit of records. */
  edit: [
    'deleted',
    'exists',
    'field',
    'gone',
    'id',
    'kept',
    'made',
    'madeFor',
    'person',
    'required',
    'serial',
    'twice',
    'type',
    'version',
  ],
  /** A file of a list. */
  export: ['field', 'format', 'size'],
  /** An expression. */
  expression: [
    'arguments',
    'circle',
    'condition',
    'constant',
    'day',
    'digits',
    'empty',
    'field',
    'gather',
    'literal',
    'operator',
    'options',
    'rates',
    'route',
    'run',
    'selection',
    'size',
    'unlike',
  ],
  /** A sample family. */
  family: ['data', 'field', 'most', 'name', 'none', 'root', 'size', 'taken', 'unknown'],
  /** An expression typed as text. */
  feel: [
    'arguments',
    'around',
    'date',
    'depth',
    'duration',
    'empty',
    'filter',
    'function',
    'if',
    'list',
    'name',
    'named',
    'null',
    'number',
    'path',
    'power',
    'record',
    'several',
    'size',
    'syntax',
    'text',
    'unit',
    'unknown',
  ],
  /** A field that is asked for. */
  field: ['notKept', 'unknown'],
  /** The name under which the server is asked. */
  host: ['unknown'],
  /** An id in a file. */
  id: ['form', 'taken'],
  /** A file. */
  import: [
    'body',
    'csv',
    'empty',
    'encoding',
    'format',
    'heading',
    'json',
    'nothing',
    'plan',
    'refused',
    'row',
    'size',
  ],
  /** How numbers and dates are written. */
  form: ['unknown'],
  /** The form of a request. */
  input: ['character', 'shape'],
  /** A key of a file, or of a request that is sent again. */
  key: ['empty', 'form', 'missing', 'none', 'reused', 'several', 'twice'],
  /** A link, as a rule or a record gives it. */
  link: ['ask', 'deleted', 'gone', 'itself', 'keys', 'loop', 'none', 'part', 'route', 'several', 'topmost'],
  /** A kept list, or what a list is asked for. */
  list: [
    'after',
    'condition',
    'field',
    'most',
    'moved',
    'name',
    'record',
    'refused',
    'selection',
    'sort',
    'taken',
    'type',
    'unknown',
    'values',
    'version',
  ],
  /** Records made when asked. */
  make: ['condition'],
  /** A rule’s table of results. */
  map: ['otherwise'],
  /** A message. */
  message: ['unknown'],
  /** People who are given what they may together. */
  group: ['claimed', 'unknown'],
  /** Who takes part in a workspace. */
  member: ['last', 'there', 'unknown'],
  /** An HTTP method. */
  method: ['unknown'],
  /** The model. */
  model: [
    'bridge',
    'empty',
    'field',
    'key',
    'kind',
    'linked',
    'list',
    'listUsed',
    'name',
    'noField',
    'noList',
    'noSelection',
    'noType',
    'openLink',
    'options',
    'otherEnd',
    'policy',
    'rates',
    'repeated',
    'rule',
    'section',
    'size',
    'target',
    'title',
    'twice',
    'version',
  ],
  /** A rule’s pace. */
  pace: ['now'],
  /** Who acts. */
  person: ['confirm', 'email', 'gone', 'other', 'own', 'unknown'],
  /** The site whose page asks. */
  origin: ['other'],
  /** A name of a role, a group or a service. */
  name: ['taken'],
  /** An address that is good once. */
  oneTime: ['gone'],
  /** A passkey. */
  passkey: ['most', 'refused', 'unknown'],
  /** A password. */
  password: ['weak'],
  /** A pilot. */
  pilot: ['allTheWay', 'beside', 'records', 'selection'],
  /** Rules together. */
  plan: ['circle', 'dated', 'precedence', 'settles', 'twoWriters'],
  /** A preview. */
  preview: ['size'],
  /** A proof. */
  proof: ['day', 'missed', 'most', 'name', 'person', 'rule', 'size', 'taken', 'unfit', 'unknown', 'version'],
  /** A proposal. */
  proposal: ['decided', 'unknown'],
  /** The command that runs proofs. */
  prove: ['file', 'strength', 'usage'],
  /** What stands behind the question mark of an address. */
  query: ['number', 'unknown'],
  /** A save put off. */
  queue: ['gone'],
  /** Rates. */
  rates: ['service', 'type'],
  /** A record that is asked for. */
  record: ['deleted', 'unknown'],
  /** A rehearsal. */
  rehearsal: ['size', 'time'],
  /** A request. */
  request: ['due', 'most', 'name', 'proof', 'rule', 'taken', 'unknown', 'version'],
  /** Records that come back from the bin. */
  restore: ['there'],
  /** What a review found. */
  review: [
    'always',
    'empty',
    'everyWay',
    'flag',
    'imported',
    'never',
    'options',
    'results',
    'slowDate',
    'slowerInput',
    'subTotals',
    'unit',
  ],
  /** How often something is asked. */
  rate: ['exceeded'],
  /** What somebody may. */
  right: ['missing'],
  /** What somebody can be in a workspace. */
  role: ['access', 'shipped', 'unknown', 'used'],
  /** An address of the API. */
  route: ['closed', 'unknown'],
  /** A row of a file. */
  row: ['shape'],
  /** A rule. */
  rule: [
    'aggregate',
    'also',
    'appliesWhen',
    'joining',
    'kinds',
    'limits',
    'live',
    'loop',
    'map',
    'notDraft',
    'noPilot',
    'notLive',
    'ofItself',
    'order',
    'own',
    'pace',
    'perOption',
    'pilotLive',
    'proofs',
    'reaction',
    'rounding',
    'route',
    'state',
    'tags',
    'target',
    'together',
    'type',
    'unfinished',
    'unknown',
    'unlike',
    'value',
    'version',
  ],
  /** A run. */
  run: ['after', 'circle', 'continueInBulk', 'filter', 'group', 'id', 'size', 'unknown'],
  /** A save. */
  save: ['before', 'busy', 'many', 'unknown', 'untold'],
  /** Serial numbers. */
  serial: ['none'],
  /** The server. */
  server: ['away'],
  /** A code after the password. */
  secondFactor: ['set', 'wrong'],
  /** A program of a workspace’s own. */
  service: ['unknown'],
  /** Being signed in. */
  session: ['none', 'second', 'unknown'],
  /** What somebody sees who sees only a part of a workspace. */
  sight: ['brings', 'part', 'preview', 'record', 'refused'],
  /** Signing in. */
  signIn: ['code', 'demo', 'noMail', 'noProvider', 'wait', 'wrong'],
  /** A strength of proofs. */
  strength: ['time'],
  /** A token of a program. */
  token: ['most', 'unknown'],
  /** A type that is asked for. */
  type: ['unknown'],
  /** An undo. */
  undo: ['kind', 'nothing'],
  /** Where something is used. */
  uses: ['named', 'unknown'],
  /** A value. */
  value: ['character', 'kind', 'length', 'option', 'range', 'taken'],
  /** A workspace. */
  workspace: ['confirm', 'name', 'taken', 'timeZone', 'unknown'],
} as const satisfies Readonly<Record<string, readonly string[]>>;

/** What is about nothing in particular. */
export const WHOLE_CODES = ['busy', 'internal', 'stopped'] as const;

type Families = typeof PROBLEM_CODES;

export type ProblemCode =
  | (typeof WHOLE_CODES)[number]
  | { [F in keyof Families & string]: `${F}.${Families[F][number]}` }[keyof Families & string];
