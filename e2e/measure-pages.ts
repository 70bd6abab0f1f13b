import { chromium, type Browser, type BrowserContext, type Page } from '@playwright/test';
import { firstIn, itemAt } from '@/core/values';
import { CHROMIUM } from './chromium';

/**
 * Measures how soon each place of a demo is there: `PAGES_OF=http://127.0.0.1:… tsx e2e/measure-pages.ts`. Each is opened cold, in a context of
 * its own, and told as the median of five. Times are milliseconds.
 */

const BASE = process.env.PAGES_OF ?? '';
const TIMES = Number(process.env.PAGES_TIMES ?? 5);

interface Place {
  readonly name: string;
  readonly path: string;
  /** What a person came for; seen, the place is there. */
  readonly sign: (page: Page) => Promise<void>;
}

const text =
  (wanted: RegExp | string) =>
  (page: Page): Promise<void> =>
    page.getByRole('main').getByText(wanted).first().waitFor();

const link =
  (to: string) =>
  (page: Page): Promise<void> =>
    page.getByRole('main').locator(`a[href*="${to}"]`).first().waitFor();

interface Measured {
  readonly largest: number;
  readonly blocked: number;
  readonly requests: number;
  readonly kilobytes: number;
  readonly shift: number;
}

interface Seen {
  largest: number;
  blocked: number;
  shift: number;
}

/**
 * Runs in the page before anything else, as text, since what compiles this would call helpers that aren't there. `blocked` is the part of each
 * long task beyond 50 ms, as web.dev defines the total blocking time.
 */
const WATCH = `
  const seen = (globalThis.seen = { largest: 0, blocked: 0, shift: 0 });
  const observe = (type, tell) =>
    new PerformanceObserver((list) => list.getEntries().forEach(tell)).observe({ type, buffered: true });
  observe('largest-contentful-paint', (entry) => { seen.largest = entry.startTime; });
  observe('longtask', (entry) => { seen.blocked += Math.max(0, entry.duration - 50); });
  observe('layout-shift', (entry) => { if (!entry.hadRecentInput) seen.shift += entry.value; });
`;

async function cold(browser: Browser, { path, sign }: Place): Promise<Measured> {
  const context = await contextOf(browser);
  const page = await context.newPage();
  const network = await context.newCDPSession(page);
  await network.send('Network.enable');
  let [requests, bytes] = [0, 0];
  network.on('Network.requestWillBeSent', () => (requests += 1));
  network.on('Network.loadingFinished', ({ encodedDataLength }) => (bytes += encodedDataLength));
  await page.addInitScript({ content: WATCH });
  await page.goto(path, { waitUntil: 'commit' });
  await sign(page);
  await page.waitForLoadState('networkidle');
  const seen = await page.evaluate(() => (globalThis as unknown as { seen: Seen }).seen);
  await context.close();
  return {
    ...{ largest: seen.largest, blocked: seen.blocked, requests, kilobytes: bytes / 1024, shift: seen.shift },
  };
}

const contextOf = (browser: Browser): Promise<BrowserContext> =>
  browser.newContext({ baseURL: BASE, viewport: { width: 1280, height: 800 }, reducedMotion: 'reduce' });

const median = (of: readonly number[]): number => {
  const sorted = [...of].sort((a, b) => a - b);
  return itemAt(sorted, Math.floor(sorted.length / 2));
};

async function places(): Promise<Place[]> {
  const api = `${BASE}/api/v1/workspaces/wrenfield`;
  const read = async <T>(path: string): Promise<T> => (await (await fetch(api + path)).json()) as T;
  const { rules } = await read<{ rules: { id: string; name: string }[] }>('/rules');
  const { records } = await read<{ records: { id: string }[] }>('/records/exhibition?limit=1');
  const { runs } = await read<{ runs: { run: string }[] }>('/runs?limit=1');
  const place = (name: string, path: string, sign: Place['sign']): Place => ({
    ...{ name, path: `/w/wrenfield${path}`, sign },
  });
  return [
    place('Today', '/today', text(/Also at hand/)),
    place('Requests', '/requests', link('/requests/')),
    place('Rules', '/rules', text(/proofs? holds?/)),
    place('A rule', `/rules/${firstIn(rules).id}`, text('Worked example')),
    place('Bench', '/bench', text(/GBP/)),
    place('Records', '/records/loan', text(/GBP/)),
    place('A record', `/records/exhibition/${firstIn(records).id}`, text('what is in it')),
    place('Model', '/model', text('Institution')),
    place('Ledger', '/ledger', link('/ledger/')),
    place('A run', `/ledger/${firstIn(runs).run}`, text(/^Run \d/)),
  ];
}

/** From the press of a place on the rail until what a person came for is there, all places having been opened once. */
async function going(browser: Browser, all: readonly Place[]): Promise<void> {
  const context = await contextOf(browser);
  const page = await context.newPage();
  const rail = page.getByRole('navigation', { name: 'Places' });
  const onRail = all.filter(({ name }) =>
    ['Today', 'Requests', 'Rules', 'Bench', 'Model', 'Ledger'].includes(name),
  );
  const took = new Map<string, number[]>();
  await page.goto(firstIn(onRail).path);
  await firstIn(onRail).sign(page);
  for (let time = 0; time <= TIMES; time += 1)
    for (const { name, path, sign } of [...onRail.slice(1), firstIn(onRail)]) {
      const place = rail.getByRole('link', { name: new RegExp(`^${name}`) });
      await place.hover();
      const before = performance.now();
      await place.click();
      await page.waitForURL(`**${path}*`);
      await sign(page);
      if (time > 0) took.set(name, [...(took.get(name) ?? []), performance.now() - before]);
    }
  for (const [name, times] of took) console.log(`To ${name.padEnd(9)} ${median(times).toFixed(0)} ms`);
  await context.close();
}

/** From a key until the frame that shows it, as the browser tells it (Event Timing), in a record's field. */
async function typing(browser: Browser, { path, sign }: Place): Promise<void> {
  const context = await contextOf(browser);
  const page = await context.newPage();
  await page.addInitScript({
    content: `globalThis.keys = []; new PerformanceObserver((list) => list.getEntries().forEach((entry) => { if (entry.name === 'keydown') keys.push(entry.duration); })).observe({ type: 'event', durationThreshold: 16, buffered: true });`,
  });
  await page.goto(path);
  await sign(page);
  await page.waitForLoadState('networkidle');
  await page.getByRole('form', { name: 'Fields' }).getByRole('textbox').first().focus();
  const typed = 'Rivers of silk and wool';
  await page.keyboard.type(typed, { delay: 120 });
  await page.waitForLoadState('networkidle');
  const slow = await page.evaluate(() => (globalThis as unknown as { keys: number[] }).keys);
  // Keys whose frame comes within 16 ms aren't told.
  const all = [...slow, ...Array.from({ length: Math.max(0, typed.length - slow.length) }, () => 16)];
  console.log(`A key in a field  ${median(all)} ms, the slowest ${Math.max(...all)} ms`);
  await context.close();
}

async function main(): Promise<void> {
  const browser = await chromium.launch(CHROMIUM);
  const told: string[] = [];
  const wanted = process.argv.slice(2);
  const all = await places();
  for (const place of all) {
    if (wanted.length > 0 && !wanted.includes(place.name)) continue;
    const found: Measured[] = [];
    for (let time = 0; time < TIMES; time += 1) found.push(await cold(browser, place));
    const of = (key: keyof Measured) => median(found.map((one) => one[key]));
    told.push(
      [
        place.name.padEnd(10),
        `largest ${of('largest').toFixed(0).padStart(5)}`,
        `blocked ${of('blocked').toFixed(0).padStart(4)}`,
        `requests ${of('requests').toFixed(0).padStart(3)}`,
        `KB ${of('kilobytes').toFixed(0).padStart(4)}`,
        `shift ${of('shift').toFixed(3)}`,
      ].join('  '),
    );
    console.log(told.at(-1));
  }
  if (wanted.length === 0) {
    await going(browser, all);
    const record = all.find(({ name }) => name === 'A record');
    if (record) await typing(browser, record);
  }
  await browser.close();
}

main().catch((error: unknown) => {
  console.error(error);
  process.exit(1);
});
