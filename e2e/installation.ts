import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { createServer } from 'node:net';
import { type Browser, type BrowserContext, expect, type Page } from '@playwright/test';
import { Client } from 'pg';

/** An installation of its own, as a company starts it: empty, and nobody can sign in yet. */
export interface Installation {
  /** Where people open it. */
  readonly base: string;
  /** What stands behind the # of the first administrator's address. */
  readonly secret: string;
  readonly database: string;
  stop(): Promise<void>;
}

export const NAME = 'Ada Wren';
export const EMAIL = 'ada@choir.example';
export const PASSWORD = 'nine geese over the weir';
const administrated = () => process.env.E2E_DATABASES?.split(',')[0] ?? process.env.DATABASE_URL!;

async function inCluster(text: string): Promise<void> {
  const client = new Client({ connectionString: administrated() });
  await client.connect();
  await client.query(text);
  await client.end();
}

export async function freePort(): Promise<number> {
  // Not among those that the system gives to connections by itself: one of them might take it before the server does.
  for (;;) {
    const port = 20_000 + Math.floor(Math.random() * 10_000);
    const isFree = await new Promise<boolean>((resolve) => {
      const server = createServer()
        .once('error', () => resolve(false))
        .listen(port, '127.0.0.1', () => server.close(() => resolve(true)));
    });
    if (isFree) return port;
  }
}

export const program = (file: string) => ['--import', 'tsx', `src/${file}.ts`];

export type Environment = Readonly<Record<string, string>>;

/** Makes an empty database; `env` is what the programs of an installation over it are started with. */
export async function emptyInstallation(
  base: string,
  bind: string,
  more: Environment = {},
): Promise<{ readonly env: NodeJS.ProcessEnv; readonly database: string }> {
  const database = `own_${process.pid}_${new URL(base).port}`;
  await inCluster(`CREATE DATABASE ${database}`);
  const url = new URL(administrated());
  url.pathname = `/${database}`;
  const env = {
    ...{ ...process.env, NODE_ENV: 'production' as const, DATABASE_URL: url.href, OIKON_DEMO: '' },
    ...{ OIKON_ORIGIN: base, OIKON_BIND: bind, ...more },
  };
  return { env, database };
}

/** Brings the tables up to date; answers what was told of it. */
export const migrate = (env: NodeJS.ProcessEnv): string =>
  spawnSync(process.execPath, program('migrate'), { env, encoding: 'utf8' }).stdout;

/** Serves an installation, and reads where its first administrator makes their account. */
export async function serve(env: NodeJS.ProcessEnv, base: string, database: string): Promise<Installation> {
  const server: ChildProcess = spawn(process.execPath, program('serve'), {
    ...{ env, stdio: ['ignore', 'pipe', 'inherit'] },
  });
  const ended = new Promise<void>((resolve) => server.once('exit', () => resolve()));
  const secret = await new Promise<string>((resolve, reject) => {
    let told = '';
    // Otherwise its tests would wait for what it never says.
    void ended.then(() => reject(new Error(`The server ended before it said where to begin: ${told}`)));
    server.stdout!.on('data', (piece: Buffer) => {
      told += piece.toString();
      const found = /\/welcome#([\w-]{43})\n/.exec(told);
      if (found) resolve(found[1]!);
    });
  });
  const stop = async () => {
    server.kill();
    await ended;
    await inCluster(`DROP DATABASE ${database} WITH (FORCE)`);
  };
  return { base, secret, database, stop };
}

/** An installation with a workspace, whose administrator is Ada. */
export async function startedInstallation(
  base: string,
  bind: string,
  more: Environment = {},
): Promise<Installation> {
  const { env, database } = await emptyInstallation(base, bind, more);
  migrate(env);
  return serve(env, base, database);
}

/** A browser of its own; what its pages are refused to load or run is held to be nothing. */
export async function browserOf(
  browser: Browser,
  { base }: Pick<Installation, 'base'>,
): Promise<{ context: BrowserContext; page: Page; refused: string[] }> {
  const context = await browser.newContext({
    ...{ baseURL: base, viewport: { width: 1280, height: 800 }, ignoreHTTPSErrors: true },
  });
  const page = await context.newPage();
  const refused: string[] = [];
  page.on('console', (message) => {
    if (/Content Security Policy/.test(message.text())) refused.push(message.text());
  });
  return { context, page, refused };
}

export async function signIn(page: Page, password = PASSWORD, email = EMAIL): Promise<void> {
  await page.getByLabel('E-mail').fill(email);
  await page.getByLabel('Password', { exact: true }).fill(password);
  await page.keyboard.press('Enter');
}

/** Ada makes her account, and the workspace Choir. */
export async function makeChoir(page: Page, { secret }: Installation): Promise<void> {
  await page.goto(`/welcome#${secret}`);
  await page.getByLabel('Your name').fill(NAME);
  await page.getByLabel('E-mail').fill(EMAIL);
  await page.getByLabel('Password', { exact: true }).fill(PASSWORD);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Workspaces', exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'New workspace' }).click();
  await page.getByRole('dialog').getByLabel('Name').fill('Choir');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: `Signed in as ${NAME}. Your account` })).toBeVisible();
}

/** Something of one's own account, from the foot of the rail. */
export async function account(page: Page, item: string): Promise<void> {
  await page.getByRole('button', { name: /^Signed in as/ }).click();
  await page.getByRole('menuitem', { name: item }).click();
}
