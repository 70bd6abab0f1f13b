import { expect, type Page, test } from './test';

const dialog = (page: Page) => page.getByRole('dialog');
const rows = (page: Page) => page.locator('.ant-table-row');
const lists = (page: Page) =>
  page.getByRole('group', { name: 'This list' }).getByRole('button', { name: /^(Lists|Dear loans)/ });

test('a selection with a date that moves is made on the model, used in a list, and the list is saved for everybody', async ({
  page,
}) => {
  await test.step('the selection says how many records it has before it is made', async () => {
    await page.goto('/w/wrenfield/model');
    await page.getByTestId('type-on-map').filter({ hasText: 'Loan' }).first().click();
    await page.getByRole('button', { name: 'Add a selection' }).click();
    await dialog(page).getByRole('textbox', { name: 'Name', exact: true }).fill('Due back within a year');
    await dialog(page)
      .getByRole('button', { name: /^Add a test on/ })
      .click();
    await page.getByRole('menuitem', { name: 'Due back', exact: true }).click();
    await dialog(page)
      .getByRole('button', { name: /^Test: is/ })
      .click();
    await page.getByRole('menuitem', { name: 'is on or before' }).click();
    await page.getByRole('button', { name: /^Compared with/ }).click();
    await page.getByRole('button', { name: 'or relative to today' }).click();
    await page.getByRole('spinbutton', { name: 'How many' }).fill('1');
    await page.getByRole('combobox', { name: 'Unit' }).click();
    await page.getByTitle('years', { exact: true }).click();
    await page.getByRole('combobox', { name: 'Before or after' }).click();
    await page.getByTitle('after', { exact: true }).click();
    await page.getByRole('button', { name: 'Done' }).click();
    await expect(dialog(page)).toContainText('Due back is on or before 1 year after today');
    await expect(dialog(page)).toContainText(/“Due back within a year” would have \d+ loans now/);
    await dialog(page).getByRole('button', { name: 'Add the selection' }).click();
    await expect(page.getByRole('table', { name: 'Selections of Loans' })).toContainText(
      'Due back within a year',
    );
  });

  await test.step('a list of it is sorted, and saved with a name', async () => {
    await page.goto('/w/wrenfield/records/loan');
    await lists(page).click();
    await page.getByRole('menuitem', { name: 'Due back within a year' }).click();
    await expect(page.getByRole('group', { name: 'Which records are shown' })).toContainText(
      'is in “Due back within a year”',
    );
    await page.getByRole('columnheader', { name: /^Fee/ }).click();
    await lists(page).click();
    await page.getByRole('menuitem', { name: 'Save this list …' }).click();
    await dialog(page).getByRole('textbox', { name: 'Name' }).fill('Dear loans');
    await dialog(page).getByRole('button', { name: 'Save it' }).click();
    await expect(page).toHaveURL(/list=/);
    await page.reload();
    await expect(page.getByRole('group', { name: 'Which records are shown' })).toContainText(
      'is in “Due back within a year”',
    );
    await expect(page.getByRole('columnheader', { name: /^Fee/ })).toHaveAttribute('aria-sort', 'ascending');
    await expect(rows(page).first()).toBeVisible();
  });

  await test.step('a selection that a list uses can’t be removed; the list, and then the selection, can', async () => {
    await page.goto('/w/wrenfield/model');
    await page.getByTestId('type-on-map').filter({ hasText: 'Loan' }).first().click();
    await page.getByRole('button', { name: 'Remove Due back within a year' }).click();
    await expect(dialog(page)).toContainText('The list “Dear loans” couldn’t be read afterwards');
    await expect(dialog(page).getByRole('button', { name: 'Remove it' })).toBeDisabled();
    await dialog(page).getByRole('button', { name: 'Cancel' }).click();
    await page.goto('/w/wrenfield/records/loan');
    await lists(page).click();
    await page.getByRole('menuitem', { name: 'Dear loans' }).click();
    // Opening a list makes its bar anew: a menu that was opened before would go with the old one.
    await expect(lists(page)).toHaveText('Dear loans');
    await lists(page).click();
    await page.getByRole('menuitem', { name: 'Remove “Dear loans” …' }).click();
    await dialog(page).getByRole('button', { name: 'Remove it' }).click();
    await expect(page).toHaveURL(/records\/loan$/);
    await page.goto('/w/wrenfield/model');
    await page.getByTestId('type-on-map').filter({ hasText: 'Loan' }).first().click();
    await page.getByRole('button', { name: 'Remove Due back within a year' }).click();
    await dialog(page).getByRole('button', { name: 'Remove it' }).click();
    await expect(page.getByRole('button', { name: 'Remove Due back within a year' })).toHaveCount(0);
  });
});

test('selections of several types stand in one list', async ({ page }) => {
  await page.goto('/w/wrenfield/records/artefact');
  await page.getByRole('group', { name: 'This list' }).getByRole('button', { name: 'Lists' }).click();
  await page.getByRole('menuitem', { name: 'Care before transport' }).click();
  await expect(page.getByRole('heading', { name: 'Care before transport' })).toBeVisible();
  await expect(page.getByRole('row').filter({ hasText: 'Artefact' }).first()).toContainText(
    'Never inspected',
  );
  await expect(page.getByRole('row').filter({ hasText: 'With a courier' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Show more records' }).click();
  await expect(page.getByRole('row').filter({ hasText: 'With a courier' }).first()).toContainText('Loan');
});
