import { test as base } from '@playwright/test';

/** The address of the server that a worker has to itself, over a database of its own: `E2E_PORTS` lists them. */
export const addressOf = (worker: number): string => {
  const ports = (process.env.E2E_PORTS ?? '4412').split(',');
  return `http://127.0.0.1:${ports[worker % ports.length]}`;
};

export const test = base.extend({
  baseURL: async ({ browserName: _browser }, provide, { parallelIndex }) => provide(addressOf(parallelIndex)),
});

export { type APIRequestContext, expect, type Locator, type Page } from '@playwright/test';
