import { type ChildProcess, spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { type CDPSession, expect, type Page, test } from '@playwright/test';
import { Secret, TOTP } from 'otpauth';
import { SMTPServer } from 'smtp-server';
import {
  account,
  browserOf,
  EMAIL,
  freePort,
  type Installation,
  makeChoir,
  PASSWORD,
  program,
  signIn,
  startedInstallation,
} from './installation';

/** Ways to sign in besides a password, at an installation whose company has a sign-in and sends mail. */
let own: Installation;
let standIn: ChildProcess;
let post: SMTPServer;
/** Mails that came, and whoever waits for the next. */
const mails: string[] = [];
let onMail = (): void => undefined;
/** Ada's codes that are good once. */
const spare: string[] = [];

test.beforeAll(async () => {
  const [port, providerPort, postPort] = [await freePort(), await freePort(), await freePort()];
  // A browser gives a passkey to a name only, not to an address of the network.
  const base = `http://localhost:${port}`;
  standIn = spawn(process.execPath, [...program('standins/serve-company-sign-in'), String(providerPort)], {
    env: { ...process.env, OIKON_ORIGIN: base },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const told = await new Promise<string>((resolve) =>
    standIn.stdout!.once('data', (piece: Buffer) => resolve(piece.toString())),
  );
  const provider = Object.fromEntries(
    [...told.matchAll(/(OIKON_OIDC_\w+)='?([^'\n]+)'?/g)].map(([, name, value]) => [name!, value!]),
  );
  post = new SMTPServer({
    ...{ authOptional: true, disabledCommands: ['STARTTLS', 'AUTH'] },
    onData(stream, _session, done) {
      let text = '';
      stream.on('data', (piece: Buffer) => (text += piece.toString()));
      stream.on('end', () => {
        mails.push(text.replaceAll('=\r\n', '').replaceAll('=3D', '='));
        onMail();
        done();
      });
    },
  });
  await new Promise<void>((resolve) => post.listen(postPort, '127.0.0.1', () => resolve()));
  own = await startedInstallation(base, `127.0.0.1:${port}`, {
    ...{ ...provider, OIKON_KEY: randomBytes(32).toString('base64'), OIKON_OIDC_NAME: 'Choir login' },
    OIKON_MESSAGE_SERVICE: 'mail',
    ...{ OIKON_MAIL_URL: `smtp://127.0.0.1:${postPort}`, OIKON_MAIL_FROM: 'Oikon <oikon@choir.example>' },
  });
});

test.afterAll(async () => {
  await own.stop();
  const ended = new Promise((resolve) => standIn.once('exit', resolve));
  standIn.kill();
  await ended;
  await new Promise<void>((resolve) => post.close(resolve));
});

/** A key that says yes, as a finger on it would. */
async function withKey(page: Page): Promise<CDPSession> {
  const session = await page.context().newCDPSession(page);
  await session.send('WebAuthn.enable');
  await session.send('WebAuthn.addVirtualAuthenticator', {
    options: {
      ...{ protocol: 'ctap2', transport: 'internal', hasResidentKey: true },
      ...{ hasUserVerification: true, isUserVerified: true, automaticPresenceSimulation: true },
    },
  });
  return session;
}

const signedInAs = (page: Page, name: string) =>
  page.getByRole('button', { name: `Signed in as ${name}. Your account` });

test.describe.serial('ways to sign in', () => {
  test('a passkey is made, signs in without a password, and is removed', async ({ browser }) => {
    const { context, page, refused } = await browserOf(browser, own);
    await makeChoir(page, own);
    await withKey(page);
    await account(page, 'Passkeys and second step …');
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('Where it is').fill('Ada’s laptop');
    await dialog.getByRole('button', { name: 'Make a passkey' }).click();
    await expect(dialog.getByRole('listitem')).toContainText('Ada’s laptop');
    await expect(dialog.getByRole('listitem')).toContainText('not used yet');
    // The same key a second time: said, and nothing made.
    await dialog.getByLabel('Where it is').fill('The same again');
    await dialog.getByRole('button', { name: 'Make a passkey' }).click();
    await expect(dialog.getByRole('alert')).toContainText('has a passkey of yours already');
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'Give it up' }).click();
    await account(page, 'Sign out');
    await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
    await page.getByRole('button', { name: 'Sign in with a passkey' }).click();
    await expect(
      page.getByRole('heading', { name: 'Workspaces', exact: true }).or(signedInAs(page, 'Ada Wren')).first(),
    ).toBeVisible();
    await page.goto('/w/choir/today');
    await account(page, 'Passkeys and second step …');
    await expect(dialog.getByRole('listitem')).toContainText('used last');
    await dialog.getByRole('button', { name: 'Remove Ada’s laptop' }).click();
    await expect(dialog.getByRole('listitem')).toHaveCount(0);
    await page.keyboard.press('Escape');
    await account(page, 'Sign out');
    await page.getByRole('button', { name: 'Sign in with a passkey' }).click();
    await expect(page.getByRole('main').getByRole('alert')).toContainText('The passkey isn’t known here');
    await context.close();
    expect(refused).toEqual([]);
  });

  test('a role wants a second step: who has none sets it up on the way, and gives a code from then on', async ({
    browser,
  }) => {
    const administrator = await browserOf(browser, own);
    await administrator.page.goto('/w/choir/settings');
    await signIn(administrator.page);
    const wants = administrator.page.getByRole('checkbox', { name: 'Administrator gives a second step' });
    await wants.click();
    // Whoever demands it has given one: else they'd shut themselves out.
    await expect(administrator.page.getByRole('main').getByRole('alert')).toContainText(
      'Sign in with a second step yourself first',
    );
    await account(administrator.page, 'Passkeys and second step …');
    const dialog = administrator.page.getByRole('dialog');
    await dialog.getByRole('button', { name: 'Set it up' }).click();
    await expect(dialog.getByRole('img', { name: /^A square/ })).toBeVisible();
    const secret = await dialog.getByText(/^[A-Z2-7]{32}$/).innerText();
    const totp = new TOTP({ secret: Secret.fromBase32(secret) });
    await dialog.getByLabel('The code that it shows now').fill('12345');
    await administrator.page.keyboard.press('Enter');
    await expect(dialog.getByRole('alert')).toContainText('This isn’t the code of the moment');
    await dialog
      .getByLabel('The code that it shows now')
      .fill(totp.generate({ timestamp: Date.now() - 30_000 }));
    await administrator.page.keyboard.press('Enter');
    const codes = dialog.getByRole('list', { name: 'Spare codes' }).getByRole('listitem');
    await expect(codes).toHaveCount(8);
    spare.push(...(await codes.allInnerTexts()));
    await dialog.getByRole('button', { name: 'I have kept them' }).click();
    await expect(dialog).toContainText('8 spare codes are left');
    await administrator.page.keyboard.press('Escape');
    await wants.click();
    await expect(
      administrator.page.getByText('Whoever is Administrator gives a second step from now on'),
    ).toBeVisible();
    await expect(wants).toBeChecked();

    const again = await browserOf(browser, own);
    await again.page.goto('/w/choir/rules');
    await signIn(again.page);
    await expect(again.page.getByRole('heading', { name: 'The second step' })).toBeVisible();
    await again.page.getByLabel('Code').fill(totp.generate());
    await again.page.keyboard.press('Enter');
    await expect(again.page).toHaveURL(/\/w\/choir\/rules$/);
    await again.page.goto('/w/choir/settings');
    await account(again.page, 'Sign out');
    await signIn(again.page);
    await again.page.getByLabel('Code').fill(spare.pop()!);
    await again.page.keyboard.press('Enter');
    await expect(
      signedInAs(again.page, 'Ada Wren')
        .or(again.page.getByRole('heading', { name: 'Workspaces' }))
        .first(),
    ).toBeVisible();

    await test.step('a colleague who has only a password is led to it, and back', async () => {
      await again.page.goto('/w/choir/settings');
      await again.page.getByRole('button', { name: 'Let somebody in' }).click();
      const letIn = again.page.getByRole('dialog');
      await letIn.getByLabel('Name').fill('Cy Moss');
      await letIn.getByLabel('E-mail').fill('cy@choir.example');
      await letIn.getByLabel('What they may').click();
      await again.page.locator('.ant-select-item-option[title="Administrator"]').last().click();
      await letIn.getByRole('button', { name: 'Let them in' }).click();
      const address = await letIn.getByText(/\/welcome#/).innerText();
      const colleague = await browserOf(browser, own);
      await colleague.page.goto(address);
      await colleague.page.getByLabel('New password', { exact: true }).fill('a heron on one leg at dawn');
      await colleague.page.keyboard.press('Enter');
      await expect(colleague.page.getByRole('heading', { name: 'A second step' })).toBeVisible();
      await colleague.page.getByRole('button', { name: 'Set it up' }).click();
      const own32 = await colleague.page.getByText(/^[A-Z2-7]{32}$/).innerText();
      const other = new TOTP({ secret: Secret.fromBase32(own32) });
      await colleague.page.getByLabel('The code that it shows now').fill(other.generate());
      await colleague.page.keyboard.press('Enter');
      await colleague.page.getByRole('button', { name: 'I have kept them' }).click();
      await expect(colleague.page.getByRole('button', { name: /^Signed in as Cy Moss/ })).toBeVisible();
      await colleague.context.close();
      expect(colleague.refused).toEqual([]);
    });
    await administrator.context.close();
    await again.context.close();
    expect([...administrator.refused, ...again.refused]).toEqual([]);
  });

  test('the company’s sign-in makes people, and what their groups may they may, at once', async ({
    browser,
  }) => {
    const unverified = await browserOf(browser, own);
    await unverified.page.goto('/sign-in');
    await unverified.page.getByRole('button', { name: 'Sign in with Choir login' }).click();
    await unverified.page.getByRole('link', { name: 'Quin Unverified' }).click();
    await expect(unverified.page.getByRole('main').getByRole('alert')).toContainText(
      'this installation doesn’t',
    );

    const orla = await browserOf(browser, own);
    await orla.page.goto('/w/choir/rules');
    await orla.page.getByRole('button', { name: 'Sign in with Choir login' }).click();
    await orla.page.getByRole('link', { name: 'Orla Finch' }).click();
    await expect(orla.page).toHaveURL(/\/w\/choir\/rules$/);
    await expect(orla.page.getByRole('main').getByRole('alert')).toContainText(
      'There is no workspace “choir”.',
    );
    const kept = () => orla.context.cookies().then((all) => all.find(({ name }) => name === 'oikon')?.value);
    const before = await kept();

    const { page, context, refused } = await browserOf(browser, own);
    await page.goto('/w/choir/settings');
    await signIn(page);
    await page.getByLabel('Code').fill(spare.pop()!);
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Make a group …' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('Name').fill('Registrars');
    await dialog.getByLabel('What the company’s sign-in calls it').fill('registrars');
    await dialog.getByRole('button', { name: 'Make it' }).click();
    await expect(page.getByText('by sign-in, as registrars')).toBeVisible();
    await page.getByRole('button', { name: 'Make a role …' }).click();
    await dialog.getByLabel('What one is').fill('Cataloguer');
    await dialog.getByRole('checkbox', { name: 'Write rules' }).click();
    await dialog.getByRole('button', { name: 'Make it' }).click();
    await expect(page.getByRole('columnheader', { name: 'Cataloguer …' })).toBeVisible();
    await page.getByRole('combobox', { name: 'What Registrars may' }).click();
    await page.locator('.ant-select-item-option[title="Cataloguer"]').last().click();
    await expect(page.getByText('Everybody in Registrars is Cataloguer here now')).toBeVisible();

    // Her sign-in says that she is in it: from the next time on.
    await orla.page.goto('/sign-in');
    await orla.page.getByRole('button', { name: 'Sign in with Choir login' }).click();
    await expect(
      orla.page
        .getByRole('button', { name: /^Signed in as Orla Finch/ })
        .or(orla.page.getByRole('heading', { name: 'Workspaces' }))
        .first(),
    ).toBeVisible();
    expect(await kept()).not.toBe(before);
    await orla.page.goto('/w/choir/rules');
    await expect(orla.page.getByRole('link', { name: 'Write a rule' })).toBeVisible();
    await page.reload();
    await expect(page.getByRole('row', { name: /^Orla Finch/ })).toContainText('Cataloguer by Registrars');

    // What she may changes: her session gets another id, and counts at once.
    const during = await kept();
    await page.getByRole('combobox', { name: 'What Registrars may' }).click();
    await page.locator('.ant-select-item-option[title="Reader"]').last().click();
    await expect(page.getByText('Everybody in Registrars is Reader here now')).toBeVisible();
    await orla.page.goto('/w/choir/records');
    await orla.page.getByRole('link', { name: 'Rules', exact: true }).click();
    await expect(orla.page.getByRole('button', { name: 'Write a rule' })).toBeDisabled();
    // Pages have a browser keep nothing; what it asks next itself does.
    await orla.page.evaluate(() => fetch('/api/v1/workspaces/choir/types'));
    expect(await kept()).not.toBe(during);
    await expect(orla.page.getByRole('button', { name: /^Signed in as Orla Finch/ })).toBeVisible();
    for (const one of [context, orla.context, unverified.context]) await one.close();
    expect([...refused, ...orla.refused, ...unverified.refused]).toEqual([]);
  });

  test('whoever has forgotten their password is sent an address, and chooses another', async ({
    browser,
  }) => {
    const { context, page, refused } = await browserOf(browser, own);
    await page.goto('/sign-in');
    await page.getByRole('button', { name: 'You have forgotten your password?' }).click();
    await page.getByLabel('E-mail').fill(EMAIL);
    const came = new Promise<void>((resolve) => (onMail = resolve));
    await page.keyboard.press('Enter');
    await expect(page.getByRole('heading', { name: 'Look into your mail' })).toBeVisible();
    await came;
    const [, address] = /(http:\/\/localhost:\d+\/welcome#[\w-]{43})/.exec(mails.at(-1)!) ?? [];
    // Whose account it is was told of what was set up for it before.
    expect(mails.some((text) => text.includes('A second step was set up for your account'))).toBe(true);
    await page.goto(address!);
    await page.getByLabel('New password', { exact: true }).fill(`${PASSWORD} again`);
    await page.keyboard.press('Enter');
    // The address is worth a password, not the second step.
    await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
    await signIn(page, `${PASSWORD} again`);
    await expect(page.getByRole('heading', { name: 'The second step' })).toBeVisible();
    await context.close();
    expect(refused).toEqual([]);
  });
});
