import type { NextConfig } from 'next';

const config: NextConfig = {
  // The tests build beside a running demo, so each has a folder of its own.
  distDir: process.env.OIKON_BUILD_DIR ?? '.next',
  // Sequelize loads its dialect by name at run time, which a bundler can't follow.
  serverExternalPackages: [
    'sequelize',
    'pg',
    'pg-copy-streams',
    'umzug',
    'pino',
    'piscina',
    '@node-rs/argon2',
    'rate-limiter-flexible',
  ],
  poweredByHeader: false,
  reactStrictMode: true,
  experimental: {
    // A page is a few larger files rather than dozens of small ones: each request costs more than some script too many.
    turbopackChunking: { minChunkSize: 250_000, maxChunkCountPerGroup: 2, maxMergeChunkSize: 1_000_000 },
  },
};

export default config;
