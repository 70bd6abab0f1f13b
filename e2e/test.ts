import { test as base } from '@playwright/test';

/** The ports of the servers; each worker has one to itself, over a database of its own. */
export const PORTS: readonly string[] = (process.env.E2E_PORTS ?? '4412').split(',');

export const addressOf = (worker: number): string => `http://127.0.0.1:${PORTS[worker % PORTS.length]}`;

export const test = base.extend({
  baseURL: async ({ browserName: _browser }, provide, { parallelIndex }) => provide(addressOf(parallelIndex)),
});

export { type APIRequestContext, expect, type Locator, type Page } from '@playwright/test';
