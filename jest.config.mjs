/** Three projects: the core and the server in Node, the interface in jsdom; the server's need a PostgreSQL (see bin/test). */
const shared = {
  rootDir: import.meta.dirname,
  transform: {
    '^.+\\.(t|j|mj)sx?$': [
      '@swc/jest',
      {
        jsc: {
          parser: { syntax: 'typescript', tsx: true },
          transform: { react: { runtime: 'automatic' } },
          target: 'es2022',
        },
      },
    ],
  },
  transformIgnorePatterns: [
    '/node_modules/(?!(uuid|comlink|lezer-feel|min-dash|antd|@ant-design|@rc-component)/)',
  ],
  moduleNameMapper: { '\\.css$': '<rootDir>/src/ui/testing/style.ts', '^@/(.*)$': '<rootDir>/src/$1' },
};

const config = {
  // A bound for what hangs, not for what is slow: no test is about time.
  testTimeout: 600_000,
  // Database and tests take turns on the cores.
  maxWorkers: '100%',
  projects: [
    {
      ...shared,
      displayName: 'core',
      testEnvironment: 'node',
      setupFiles: ['<rootDir>/src/core/testing/seed.ts'],
      testMatch: ['<rootDir>/src/core/**/*.test.ts', '<rootDir>/src/demo/**/*.test.ts'],
    },
    {
      ...shared,
      displayName: 'server',
      testEnvironment: 'node',
      setupFiles: ['<rootDir>/src/core/testing/seed.ts'],
      testMatch: ['<rootDir>/src/{server,app}/**/*.test.ts'],
    },
    {
      ...shared,
      displayName: 'ui',
      testEnvironment: 'jsdom',
      testMatch: ['<rootDir>/src/ui/**/*.test.{ts,tsx}'],
    },
  ],
};

export default config;
