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
    '/node_modules/(?!(uuid|comlink|csv-parse|openid-client|oauth4webapi|jose|lezer-feel|min-dash|@ant-design/colors|@ant-design/fast-color)/)',
  ],
  moduleNameMapper: { '\\.css$': '<rootDir>/src/ui/testing/style.ts', '^@/(.*)$': '<rootDir>/src/$1' },
};

const config = {
  // A bound for what hangs, not for what is slow: no test is about time.
  testTimeout: process.env.OIKON_LONG ? 24 * 3_600_000 : 600_000,
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
      // Thousands of modules, each in one file.
      moduleNameMapper: {
        ...shared.moduleNameMapper,
        '^React$': '<rootDir>/node_modules/react',
        '^antd$': '<rootDir>/node_modules/antd/dist/antd.min.js',
        '^@ant-design/icons$': '<rootDir>/node_modules/@ant-design/icons/dist/index.umd.min.js',
      },
      testEnvironment: 'jsdom',
      testMatch: ['<rootDir>/src/ui/**/*.test.{ts,tsx}'],
    },
  ],
};

export default config;
