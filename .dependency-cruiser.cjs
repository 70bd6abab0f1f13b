/**
 * Imports run one way downward: app → ui and server → core, and within each of these from the last room of its list to the first.
 * A folder that isn't in a list is refused. See README, "How it is built".
 */
const ROOMS = {
  core: [
    'basics',
    'values',
    'syntax',
    'model',
    'expression',
    'rules',
    'plan',
    'engine',
    'intake',
    'verify',
    'api',
  ],
  server: [
    'requests',
    'database',
    'messages',
    'sign-in',
    'store',
    'workers',
    'queries',
    'intake',
    'undo',
    'forms',
    'actions',
    'jobs',
    'prove',
  ],
  ui: [
    ...[
      'theme',
      'api',
      'kit',
      'uses',
      'help',
      'account',
      'shell',
      'workers',
      'expression',
      'intake',
      'model',
      'requests',
      'records',
      'rules',
    ],
    ...['bench', 'ledger', 'today', 'workspaces', 'settings', 'sign-in'],
  ],
};

/**
 * The same within a part's room. What lies in it beside its own rooms is theirs: they may import it, and it them. Of `core/rules` the union of
 * kinds, which names every kind and which all of them read, lies there.
 */
const WITHIN = {
  'core/expression': ['evaluate', 'feel', 'typing'],
  'core/rules': ['shared', 'roll-up', 'cascade', 'formula', 'create', 'link'],
  'core/engine': ['driver', 'reach', 'edits', 'cascade', 'create', 'locks', 'run', 'bulk'],
  'core/verify': ['family', 'explain', 'rehearsal', 'proof', 'strength', 'review'],
  'server/store': ['sql', 'session', 'rule-sql', 'write', 'sets', 'run', 'bulk', 'schema'],
  'server/queries': ['workspaces', 'records', 'ledger', 'rules', 'today'],
  'server/actions': ['workspaces', 'records', 'rules', 'model', 'imports', 'bundles', 'approvals'],
  'ui/kit': ['hooks', 'problems', 'values', 'explain', 'map'],
  'ui/expression': ['feel'],
  'ui/model': ['map', 'dialogs', 'from-file', 'dictionary'],
  'ui/records': ['trend', 'list', 'form'],
  'ui/rules': ['drafts', 'mapping', 'fields', 'editors', 'map', 'preview', 'quality', 'list'],
  'ui/bench': ['steps', 'family', 'proof'],
};

/** Tests and what helps them may import from anywhere in their part and below. */
const TESTS = '\\.test\\.tsx?$|/testing/';

/** `rooms` of a folder, each of which imports those before it and none after. */
const oneWay = (folder, rooms) => [
  {
    name: `${folder.replace('/', '-')}-has-a-room-for-it`,
    comment: 'Every folder stands in the list of rooms, by what may import it.',
    severity: 'error',
    from: {},
    to: { path: `^src/${folder}/[^/]+/`, pathNot: `^src/${folder}/(${[...rooms, 'testing'].join('|')})/` },
  },
  ...rooms.slice(0, -1).map((room, at) => ({
    name: `${folder.replace('/', '-')}-${room}-imports-downward`,
    severity: 'error',
    from: { path: `^src/${folder}/${room}/`, pathNot: TESTS },
    to: { path: `^src/${folder}/(${rooms.slice(at + 1).join('|')})/` },
  })),
];

const downward = Object.entries(ROOMS).flatMap(([part, rooms]) => [
  ...oneWay(part, rooms),
  {
    name: `${part}-leaves`,
    comment: 'What lies beside the rooms is for all of them, and imports none.',
    severity: 'error',
    from: { path: `^src/${part}/[^/]+$`, pathNot: TESTS },
    to: { path: `^src/${part}/[^/]+/` },
  },
  {
    name: `${part}-not-its-tests`,
    severity: 'error',
    from: { path: `^src/${part}/`, pathNot: TESTS },
    to: { path: `^src/${part}/.*(${TESTS})` },
  },
]);

module.exports = {
  forbidden: [
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    ...downward,
    ...Object.entries(WITHIN).flatMap(([folder, rooms]) => oneWay(folder, rooms)),
    {
      name: 'core-is-pure',
      comment: 'The core imports nothing outside itself but its own small libraries.',
      severity: 'error',
      from: { path: '^src/core', pathNot: TESTS },
      to: { pathNot: '^src/core|node_modules/(decimal\\.js|dayjs|uuid|lezer-feel)/' },
    },
    {
      name: 'core-stands-alone',
      severity: 'error',
      from: { path: '^src/core' },
      to: { path: '^src/(server|ui|app|demo)' },
    },
    {
      name: 'server-below-ui',
      severity: 'error',
      from: { path: '^src/server' },
      to: { path: '^src/(ui|app)' },
    },
    {
      name: 'ui-uses-the-api',
      severity: 'error',
      from: { path: '^src/ui' },
      to: { path: '^src/(server|app|demo)' },
    },
    {
      name: 'nothing-imports-app',
      severity: 'error',
      from: { pathNot: '^src/app' },
      to: { path: '^src/app' },
    },
    {
      name: 'demo-is-not-for-the-app',
      severity: 'error',
      from: { path: '^src/(app|ui|core|server)', pathNot: TESTS },
      to: { path: '^src/demo' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.test.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'require', 'node', 'default', 'types'],
    },
  },
};
