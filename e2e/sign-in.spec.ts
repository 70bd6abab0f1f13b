import { spawnSync } from 'node:child_process';
import { request as ask } from 'node:http';
import { readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import * as of from './installation';
import { EMAIL, type Installation, NAME, PASSWORD, program, signIn } from './installation';

let own: Installation;
const browserOf = (browser: Parameters<typeof of.browserOf>[0]) => of.browserOf(browser, own);

test.beforeAll(async () => {
  const base = `http://127.0.0.1:${await of.freePort()}`;
  const { env, database } = await of.emptyInstallation(base, new URL(base).host, {
    // A stranger asks for every route here.
    OIKON_RATE_STRANGER: '9999',
  });
  const tooEarly = spawnSync(process.execPath, program('serve'), { env, encoding: 'utf8' });
  expect(tooEarly.stderr).toContain('run bin/migrate, and start again');
  expect(tooEarly.status).toBe(1);
  const unset = spawnSync(process.execPath, program('serve'), {
    ...{ env: { ...env, OIKON_ORIGIN: 'oikon.example' }, encoding: 'utf8' },
  });
  expect(unset.stderr).toContain('OIKON_ORIGIN should be where people open Oikon');
  expect(unset.status).toBe(2);
  for (const says of [/\d+ steps were taken/, /were up to date/]) expect(of.migrate(env)).toMatch(says);
  own = await of.serve(env, base, database);
});

test.afterAll(() => own.stop());

test.describe.serial('an installation that isn’t the demo', () => {
  test('the first administrator makes their account by an address that is good once', async ({ browser }) => {
    const { context, page, refused } = await browserOf(browser);
    await page.goto('/w/choir/rules');
    await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
    await page.goto('/welcome');
    await expect(page.getByRole('heading', { name: 'This address isn’t good' })).toBeVisible();
    await page.goto(`/welcome#${own.secret}`);
    await page.getByLabel('Your name').fill(NAME);
    await page.getByLabel('E-mail').fill(EMAIL);
    await page.getByLabel('Password', { exact: true }).fill('short');
    await page.keyboard.press('Enter');
    await expect(page.getByRole('main').getByRole('alert')).toContainText(
      'A password has 12 to 128 characters, found 5.',
    );
    await page.getByLabel('Password', { exact: true }).fill('qwerty123456');
    await page.keyboard.press('Enter');
    await expect(page.getByRole('main').getByRole('alert')).toContainText(
      'among the passwords that are tried first',
    );
    await page.getByLabel('Password', { exact: true }).fill(PASSWORD);
    await page.keyboard.press('Enter');
    await expect(page.getByRole('heading', { name: 'Workspaces', exact: true })).toBeVisible();

    await page.getByRole('button', { name: 'New workspace' }).click();
    await page.getByRole('dialog').getByLabel('Name').fill('Choir');
    await page.keyboard.press('Enter');
    await expect(page.getByRole('button', { name: `Signed in as ${NAME}. Your account` })).toBeVisible();
    await expect(page.getByText('Demo', { exact: true })).toHaveCount(0);

    const again = await browserOf(browser);
    await again.page.goto(`/welcome#${own.secret}`);
    await expect(again.page.getByRole('main')).toContainText('it was used already, or its time is over');
    await again.context.close();
    await context.close();
    expect(refused).toEqual([]);
  });

  test('one signs in and comes to the page that was asked for, and is told what doesn’t go together', async ({
    browser,
  }) => {
    const { context, page, refused } = await browserOf(browser);
    await page.goto('/w/choir/ledger?kind=save');
    await signIn(page, 'ten geese over the weir');
    await expect(page.getByRole('main').getByRole('alert')).toContainText(
      'E-mail and password don’t go together.',
    );
    await signIn(page);
    await expect(page).toHaveURL(/\/w\/choir\/ledger\?kind=save$/);
    await expect(page.getByRole('heading', { name: 'Ledger' })).toBeVisible();
    for (const place of ['rules', 'bench', 'records', 'model', 'requests', 'today']) {
      await page.goto(`/w/choir/${place}`);
      await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
    }
    await page.getByRole('button', { name: /^Signed in as/ }).click();
    await page.getByRole('menuitem', { name: 'Change your password …' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('The password that you have').fill(PASSWORD);
    await dialog.getByLabel('The new one').fill('geese');
    await dialog.getByRole('button', { name: 'Change it' }).click();
    await expect(dialog.getByRole('alert')).toContainText('found 5');
    await dialog.getByLabel('The new one').fill(PASSWORD);
    await page.keyboard.press('Enter');
    await expect(page.getByText(/^Your password is another now/)).toBeVisible();
    await page.goto('/workspaces');
    const ledger = page.getByRole('region', { name: 'Who came in, and what they may' });
    await expect(ledger).toContainText('gave a wrong password');
    await expect(ledger).toContainText('made the first administrator’s account');
    await page.goto('/w/choir/today');
    await page.getByRole('button', { name: /^Signed in as/ }).click();
    await page.getByRole('menuitem', { name: 'Sign out' }).click();
    await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
    await page.goto('/w/choir/today');
    await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
    await context.close();
    expect(refused).toEqual([]);
  });

  test('a session is ended from elsewhere, at once', async ({ browser }) => {
    const here = await browserOf(browser);
    const there = await browserOf(browser);
    for (const { page } of [here, there]) {
      await page.goto('/w/choir/today');
      await signIn(page);
      await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible();
    }
    await here.page.getByRole('button', { name: /^Signed in as/ }).click();
    await here.page.getByRole('menuitem', { name: 'Where you are signed in …' }).click();
    const dialog = here.page.getByRole('dialog');
    await expect(dialog.getByText('Here', { exact: true })).toBeVisible();
    const others = dialog.getByRole('button', { name: 'End it there' });
    for (let left = await others.count(); left > 0; left -= 1) {
      await others.first().click();
      await expect(others).toHaveCount(left - 1);
    }
    await expect(dialog).toContainText('You are signed in nowhere else.');
    await there.page.getByRole('link', { name: 'Ledger', exact: true }).click();
    await expect(there.page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
    await here.context.close();
    await there.context.close();
  });

  test('a colleague is let in as a reader, chooses a password, and may do what a reader may until that changes', async ({
    browser,
  }) => {
    const administrator = await browserOf(browser);
    await administrator.page.goto('/w/choir/settings');
    await signIn(administrator.page);
    await administrator.page.getByRole('button', { name: 'Let somebody in' }).click();
    const dialog = administrator.page.getByRole('dialog');
    await dialog.getByLabel('Name').fill('Bo Reed');
    await dialog.getByLabel('E-mail').fill('bo@choir.example');
    await dialog.getByRole('button', { name: 'Let them in' }).click();
    await expect(dialog).toContainText('An address for Bo Reed');
    const address = await dialog.getByText(/\/welcome#/).innerText();
    await dialog.getByRole('button', { name: 'Done' }).click();

    const colleague = await browserOf(browser);
    await colleague.page.goto(address);
    await expect(colleague.page.getByRole('heading', { name: 'Welcome, Bo Reed' })).toBeVisible();
    await colleague.page.getByLabel('New password', { exact: true }).fill('a heron on one leg at dawn');
    await colleague.page.keyboard.press('Enter');
    await expect(colleague.page.getByRole('button', { name: /^Signed in as Bo Reed/ })).toBeVisible();
    await colleague.page.goto('/w/choir/rules');
    const write = colleague.page.getByRole('button', { name: 'Write a rule' });
    await expect(write).toBeDisabled();
    await expect(write).toHaveAttribute('title', /you are here as Reader/);
    const refused = await colleague.page.evaluate(async () => {
      const answer = await fetch('/api/v1/workspaces/choir/model-changes', {
        ...{ method: 'POST', headers: { 'Content-Type': 'application/json' }, body: '{}' },
      });
      return [answer.status, ((await answer.json()) as { code: string }).code];
    });
    expect(refused).toEqual([403, 'right.missing']);

    await administrator.page.reload();
    await administrator.page.getByRole('combobox', { name: 'What Bo Reed may' }).click();
    await administrator.page.locator('.ant-select-item-option[title="Rule writer"]').click();
    await expect(administrator.page.getByText('Bo Reed is Rule writer here now')).toBeVisible();
    await colleague.page.reload();
    await expect(colleague.page.getByRole('link', { name: 'Write a rule' })).toBeVisible();

    await administrator.page.getByRole('button', { name: 'Bo Reed is no longer here …' }).click();
    await administrator.page.getByRole('button', { name: 'No longer here', exact: true }).click();
    await expect(administrator.page.getByText('Bo Reed may do nothing here any more')).toBeVisible();
    await expect(administrator.page.getByRole('table').first()).toContainText('Bo Reed (no longer here)');
    await colleague.page.goto('/w/choir/rules');
    await expect(colleague.page.getByRole('main').getByRole('alert')).toContainText(
      'There is no workspace “choir”.',
    );
    await administrator.context.close();
    await colleague.context.close();
    expect([...administrator.refused, ...colleague.refused]).toEqual([]);
  });

  test('a program acts by a token, with what it was given, until the token ends', async ({
    browser,
    request,
  }) => {
    const { context, page, refused } = await browserOf(browser);
    await page.goto('/w/choir/today');
    await signIn(page);
    const open = async () => {
      await page.getByRole('button', { name: /^Signed in as/ }).click();
      await page.getByRole('menuitem', { name: 'Tokens for programs …' }).click();
    };
    await open();
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('For which program').fill('Nightly import');
    await dialog.getByRole('button', { name: 'Make the token' }).click();
    const token = await dialog.getByText(/^oikon_/).innerText();
    const headers = { Authorization: `Bearer ${token}` };
    const get = (path: string) => request.get(`${own.base}${path}`, { headers });
    expect((await get('/api/v1/workspaces/choir/types')).status()).toBe(200);
    expect((await get('/api/v1/tokens')).status()).toBe(403);
    const saved = await request.post(`${own.base}/api/v1/workspaces/choir/changes`, { headers, data: {} });
    expect([saved.status(), ((await saved.json()) as { code: string }).code]).toEqual([403, 'right.missing']);
    await page.reload();
    await open();
    await expect(dialog).not.toContainText(token);
    await expect(dialog.getByRole('listitem')).toContainText('used last');
    await dialog.getByRole('button', { name: 'End Nightly import' }).click();
    await expect(dialog.getByRole('listitem')).toHaveCount(0);
    expect((await get('/api/v1/workspaces/choir/types')).status()).toBe(401);
    await context.close();
    expect(refused).toEqual([]);
  });

  test('a stranger gets nothing', async ({ browser, request }) => {
    const get = (path: string, headers: Record<string, string> = {}) =>
      request.get(`${own.base}${path}`, { headers, maxRedirects: 0 });

    await test.step('without a session every route of the API says that there is none', async () => {
      const { properties } = JSON.parse(readFileSync('docs/oikon.answers.schema.json', 'utf8')) as {
        properties: Record<string, { properties: Record<string, unknown> }>;
      };
      expect(Object.keys(properties).length).toBeGreaterThan(70);
      for (const [path, { properties: methods }] of Object.entries(properties))
        for (const method of Object.keys(methods)) {
          // What lets one in is for strangers.
          if (
            /^\/(health|api\/v1\/(session|session\/(passkey|passkey-challenges|password-addresses|provider|provider\/return)|welcome(\/.*)?))$/.test(
              path,
            )
          )
            continue;
          const address = path.replaceAll(/\{w\}/g, 'choir').replaceAll(/\{\w+\}/g, 'x');
          const answer = await request.fetch(`${own.base}${address}`, { method });
          expect([method, path, answer.status()]).toEqual([method, path, 401]);
        }
    });

    await test.step('pages lead to signing in, and bring nothing along', async () => {
      for (const path of ['/', '/workspaces', '/w/choir/today', '/w/choir/records', '/w/nowhere/rules']) {
        const answer = await get(path);
        expect([307, 303, 302]).toContain(answer.status());
        expect(answer.headers().location).toContain('/sign-in?to=');
        expect(await answer.text()).not.toContain(NAME);
      }
    });

    await test.step('nor by another name, from another site, or as somebody else', async () => {
      const byHost = await new Promise<number>((resolve) => {
        const { hostname, port } = new URL(own.base);
        const asked = ask({ hostname, port, path: '/api/v1/session', headers: { Host: 'evil.example' } });
        asked.on('response', (answer) => resolve(answer.statusCode ?? 0)).end();
      });
      expect(byHost).toBe(400);
      const { context, page } = await browserOf(browser);
      await page.goto('/w/choir/today');
      await signIn(page);
      await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible();
      const [cookie] = await context.cookies();
      expect(cookie).toMatchObject({ httpOnly: true, sameSite: 'Lax', path: '/' });
      const Cookie = `${cookie!.name}=${cookie!.value}`;
      const types = '/api/v1/workspaces/choir/types';
      expect((await get(types, { Cookie })).status()).toBe(200);
      expect((await get(types, { Cookie, Origin: 'https://evil.example' })).status()).toBe(403);
      expect((await get(types, { Cookie, 'Sec-Fetch-Site': 'cross-site' })).status()).toBe(403);
      expect((await get(types, { Cookie, 'Sec-Fetch-Site': 'same-site' })).status()).toBe(403);
      const somebody = '00000000-0000-7000-8000-000000000001';
      expect((await get(types, { Cookie, 'Oikon-Person': somebody })).status()).toBe(403);
      expect((await get('/api/v1/workspaces/nowhere/types', { Cookie })).status()).toBe(404);
      const left = await request.delete(`${own.base}/api/v1/session`, { headers: { Cookie } });
      expect(left.status()).toBe(204);
      expect((await get(types, { Cookie })).status()).toBe(401);
      expect((await get(types, { Cookie: `${cookie!.name}=${'A'.repeat(43)}` })).status()).toBe(401);
      await context.close();
    });

    await test.step('whoever guesses waits longer and longer, and is told the same of who isn’t there', async () => {
      const guess = async (email: string) => {
        const answer = await request.post(`${own.base}/api/v1/session`, {
          data: { email, password: 'a guess like any other' },
        });
        return { status: answer.status(), code: ((await answer.json()) as { code: string }).code };
      };
      const seen: Record<string, number[]> = {};
      for (const email of ['nobody@choir.example', 'somebody@choir.example']) {
        seen[email] = [];
        for (let at = 0; at < 8; at += 1) seen[email].push((await guess(email)).status);
      }
      for (const statuses of Object.values(seen)) {
        expect(statuses.slice(0, 5)).toEqual([401, 401, 401, 401, 401]);
        expect(statuses.slice(5)).toEqual([429, 429, 429]);
      }
    });
  });
});
