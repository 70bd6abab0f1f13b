import { expect, type Page, test } from './test';

const help = (page: Page) => page.getByRole('complementary', { name: 'Help' });
const look = (page: Page) => help(page).getByRole('region', { name: 'A first look' });
const CLIMATE = 'Climate requirement of Instruments of the Night';
const dialog = (page: Page) => page.getByRole('dialog');

test('help stands beside each place, opened and closed by a key; words are explained where they stand', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/rules');
  await expect(page.getByRole('heading', { name: 'Rules on Institutions' })).toBeVisible();
  await page.keyboard.press('F1');
  await expect(help(page).getByRole('heading', { name: 'Rules' })).toBeVisible();
  const picture = help(page).getByRole('img', { name: /^Picture: / });
  await expect(picture).toHaveAttribute('alt', /^Picture: the list of rules/);
  expect(
    await picture.evaluate((image: HTMLImageElement) => image.decode().then(() => image.naturalWidth)),
  ).toBeGreaterThan(1_000);
  await page.getByRole('link', { name: 'Ledger', exact: true }).click();
  await expect(help(page).getByRole('heading', { name: 'Ledger' })).toBeVisible();
  await expect(help(page).getByRole('region', { name: 'Words' })).toContainText(
    'All that follows from one save',
  );
  await help(page).press('Escape');
  await expect(help(page)).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Help' })).toBeFocused();

  await page.locator('.place-lead').getByText('ripple').focus();
  await expect(page.getByText(/^All that follows from one save/)).toBeVisible();
  await page.goto('/w/wrenfield/rules');
  await page.locator('.place-lead').getByText('pilot').focus();
  await expect(page.getByText(/^The rule is live for some records only/)).toBeVisible();
  await page
    .getByRole('link', { name: /Lent total/ })
    .first()
    .click();
  await page.getByText('keeps its field', { exact: true }).focus();
  await expect(page.getByText(/^The field always holds what its rule comes to/)).toBeVisible();
});

test('a first look is gone through in five steps, left, resumed, and undone as a whole', async ({ page }) => {
  await page.goto('/w/wrenfield/today');
  await page.getByRole('button', { name: 'Help' }).click();
  await look(page).getByRole('button', { name: 'Begin' }).click();
  await expect(page).toHaveURL(/\/w\/a-first-look[^/]*\/rules$/);
  const { pathname } = new URL(page.url());
  const copy = pathname.replace(/rules$/, 'today');
  const step = (title: string) => look(page).getByRole('listitem').filter({ hasText: title });
  const go = () => look(page).getByRole('link', { name: 'Go there' }).click();

  await test.step('a rule is read', async () => {
    await go();
    await expect(step('Read a rule')).toContainText('done');
  });

  await test.step('it is left, and resumed from where it was begun', async () => {
    await page.goto('/w/wrenfield/rules');
    await expect(look(page)).toContainText('1 of 5 steps are done.');
    await look(page).getByRole('link', { name: 'Go on with it' }).click();
    await expect(page).toHaveURL(/\/w\/a-first-look/);
  });

  await test.step('a value is changed on the bench', async () => {
    await go();
    await page.getByRole('button', { name: new RegExp(`^${CLIMATE}: .*Edit$`) }).click();
    await page.getByRole('textbox', { name: CLIMATE }).fill('18 °C');
    await page.keyboard.press('Enter');
    await expect(step('Change a value')).toContainText('done');
  });

  await test.step('a total is opened', async () => {
    await go();
    await page.getByRole('link', { name: 'Instruments of the Night' }).click();
    await page.getByRole('button', { name: /^Quoted fees/ }).click();
    await expect(step('Open a total')).toContainText('done');
    await dialog(page).getByRole('button', { name: 'Close' }).click();
  });

  await test.step('a proof is kept', async () => {
    await go();
    await page.getByRole('button', { name: new RegExp(`^${CLIMATE}: .*Edit$`) }).click();
    await page.getByRole('textbox', { name: CLIMATE }).fill('19 °C');
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Keep …' }).click();
    await page.getByRole('menuitem', { name: 'As a proof of a rule …' }).click();
    await dialog(page).getByRole('textbox', { name: 'Name' }).fill('Looked at first');
    await dialog(page).getByRole('button', { name: 'Keep it' }).click();
    await expect(step('Keep a proof')).toContainText('done');
  });

  await test.step('the draft is taken live', async () => {
    await go();
    await page.getByRole('button', { name: 'Take it live …' }).click();
    await dialog(page)
      .getByRole('button', { name: /^Take it live/ })
      .click();
    await expect(look(page).getByRole('status')).toContainText('That was it.');
  });

  await test.step('it is ended: nothing of it is left', async () => {
    await look(page).getByRole('button', { name: 'End it, and undo what it did' }).click();
    await expect(page).toHaveURL(/\/w\/wrenfield\/today$/);
    await expect(look(page).getByRole('button', { name: 'Begin' })).toBeVisible();
    await page.goto('/workspaces');
    await expect(page.getByRole('link', { name: 'Wrenfield Touring' })).toBeVisible();
    await expect(page.locator(`a[href="${copy}"]`)).toHaveCount(0);
  });
});
