import { expect, test } from './test';

/** Hands on the keyboard: what is used all day is one key away. */

test('Ctrl S saves a changed record; ? shows the keys, but not where one types', async ({ page }) => {
  await page.goto('/w/wrenfield/records/courier');
  await page.locator('.ant-table-row').getByRole('link').first().click();
  const name = page.getByRole('form', { name: 'Fields' }).getByRole('textbox').first();
  const before = await name.inputValue();
  await name.fill(`${before}?`);
  await expect(page.getByRole('dialog', { name: 'Keys' })).toBeHidden();
  await page.keyboard.press('Control+s');
  await expect(page.getByText(/^Saved\./)).toBeVisible();
  await name.fill(before);
  await page.keyboard.press('Control+s');
  await expect(page.getByText('Nothing is changed.')).toBeVisible();
  await name.blur();
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toContainText(
    'save the record, the rule or the request',
  );
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toBeHidden();
});

test('the search finds pages and what can be begun: a rule on loans', async ({ page }) => {
  await page.goto('/w/wrenfield/today');
  await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible();
  const search = page.getByRole('combobox', { name: 'Search everything' });
  await page.keyboard.press('Control+k');
  await search.fill('write rule loan');
  await page.getByRole('option', { name: /^Write a rule on loans/ }).click();
  await expect(page).toHaveURL(/\/rules\/new\?type=loan$/);
  await expect(page.getByRole('button', { name: 'Type of record: Loan' })).toBeVisible();
});

test('what is pressed before the page’s script has come is done once it has', async ({ page }) => {
  let comes = () => {};
  const script = new Promise<void>((resolve) => (comes = resolve));
  await page.route(/\/_next\/static\/.*\.js/, async (route) => {
    await script;
    await route.continue();
  });
  const goes = page.goto('/w/wrenfield/settings');
  await page.getByRole('button', { name: 'Let somebody in' }).click();
  await expect(page.getByRole('heading', { name: 'Settings' })).toBeVisible();
  await expect(page.getByRole('dialog')).toHaveCount(0);
  comes();
  await goes;
  await expect(page.getByRole('dialog')).toContainText('What they may');
});
