/** Imports run downward only: app → ui and server → core. See README, "How it is built". */
module.exports = {
  forbidden: [
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true },
    },
    {
      name: 'core-is-pure',
      comment: 'The core imports nothing outside itself but its own small libraries.',
      severity: 'error',
      from: { path: '^src/core', pathNot: '\\.test\\.ts$|/testing/' },
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
      from: { path: '^src/(app|ui|core|server)', pathNot: '\\.test\\.tsx?$' },
      to: { path: '^src/demo' },
    },
    {
      name: 'core-layers-values',
      severity: 'error',
      from: { path: '^src/core/values', pathNot: '\\.test\\.ts$' },
      to: { path: '^src/core/(model|expression|rules|plan|engine|verify)' },
    },
    {
      name: 'core-layers-model',
      severity: 'error',
      comment: 'A selection holds a condition; the model only names its form.',
      from: { path: '^src/core/model', pathNot: '\\.test\\.ts$' },
      to: {
        path: '^src/core/(expression|rules|plan|engine|verify)',
        dependencyTypesNot: ['type-only'],
      },
    },
    {
      name: 'core-layers-expression',
      severity: 'error',
      from: { path: '^src/core/expression', pathNot: '\\.test\\.ts$' },
      to: { path: '^src/core/(rules|plan|engine|verify)' },
    },
    {
      name: 'core-layers-rules',
      severity: 'error',
      from: { path: '^src/core/rules', pathNot: '\\.test\\.ts$' },
      to: { path: '^src/core/(plan|engine|verify)' },
    },
    {
      name: 'core-layers-plan',
      severity: 'error',
      from: { path: '^src/core/plan', pathNot: '\\.test\\.ts$' },
      to: { path: '^src/core/(engine|verify)' },
    },
    {
      name: 'core-layers-intake',
      severity: 'error',
      from: { path: '^src/core/(values|model|expression|rules|plan|engine)', pathNot: '\\.test\\.ts$' },
      to: { path: '^src/core/intake' },
    },
    {
      name: 'core-layers-engine',
      severity: 'error',
      from: { path: '^src/core/engine', pathNot: '\\.test\\.ts$' },
      to: { path: '^src/core/verify' },
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
