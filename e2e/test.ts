import { idInFile } from './files';
import { type BrowserContext, expect, type Page, test as base } from '@playwright/test';
import { idIn, wrongIn } from '@/server/testing/held-answers';

/** The ports of the servers; each worker has one to itself, over a database of its own. */
export const PORTS: readonly string[] = (process.env.E2E_PORTS ?? '4412').split(',');

export const addressOf = (worker: number): string => `http://127.0.0.1:${PORTS[worker % PORTS.length]}`;

/** On a busy machine a page is seen well before it listens: what goes to a page of the application goes on once it does. */
function waitUntilHeard(page: Page): void {
  const goTo = page.goto.bind(page);
  page.goto = async (...way) => {
    const response = await goTo(...way);
    await page.waitForFunction(
      () =>
        document.querySelector('script[src*="/_next/"]') === null ||
        document.documentElement.dataset.listens !== undefined,
    );
    return response;
  };
}

export const test = base.extend<object, { readonly shared: BrowserContext }>({
  /** One for all tests of a worker: what the application is made of is loaded once, as by somebody who uses it all day. */
  shared: [
    async ({ browser }, provide, { parallelIndex, project }) => {
      const { viewport, contextOptions } = project.use;
      const context = await browser.newContext({
        ...contextOptions,
        ...(viewport === undefined ? {} : { viewport }),
        baseURL: addressOf(parallelIndex),
      });
      await provide(context);
      await context.close();
    },
    { scope: 'worker' },
  ],
  /** Each test begins as a newcomer: nothing is open, and nothing remembered. */
  context: async ({ shared }, provide) => {
    await provide(shared);
    const [kept = await shared.newPage()] = shared.pages();
    await kept.goto('/health');
    await kept.evaluate(() => {
      localStorage.clear();
      sessionStorage.clear();
    });
    await shared.clearCookies();
    for (const page of shared.pages()) await page.close();
  },
  baseURL: async ({ browserName: _browser }, provide, { parallelIndex }) => provide(addressOf(parallelIndex)),
  /** Whatever the interface is answered is held to the schemas of answers. */
  page: async ({ page }, provide) => {
    const reading: Promise<string | null>[] = [];
    page.on('response', (response) => {
      const { pathname } = new URL(response.url());
      const isAnswer = pathname.startsWith('/api/') && response.status() < 300 && response.status() !== 204;
      if (!isAnswer || response.headers()['content-type'] !== 'application/json') return;
      const method = response.request().method();
      // A page that is left takes what it was answered with it.
      const read = response.json().then(
        (body: unknown) => wrongIn(method, pathname, body),
        () => null,
      );
      reading.push(read);
    });
    // Files for people are held to the same: none of them shows an id.
    page.on('download', (download) => reading.push(idInFile(download).catch(() => null)));
    waitUntilHeard(page);
    await provide(page);
    const wrong = (await Promise.all(reading)).filter((found) => found !== null);
    const shown = page.isClosed()
      ? null
      : await page.evaluate(() => document.body.innerText).catch(() => null);
    const id = shown === null ? null : idIn(shown, page.url());
    if (id) wrong.push(id);
    expect(wrong).toEqual([]);
  },
});

export { type APIRequestContext, expect, type Locator, type Page } from '@playwright/test';
