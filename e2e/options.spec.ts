import { records } from './records';
import { choose, takeLive } from './sentence';
import { expect, test } from './test';

/** Nothing of these rules is there yet: each field is made where it is wanted. */
test('one rule keeps a field for each option, and makes those that are missing', async ({ page }) => {
  const dialog = page.getByRole('dialog');
  const sentence = page.getByLabel('Sentence of the rule');
  await page.goto('/w/wrenfield/rules/new');
  await choose(page, 'Type of record', 'Exhibition');
  await choose(page, 'Aggregate', /^count/);
  await choose(page, 'Records that are brought', /^Loans/);
  await choose(page, 'Field that is kept', 'a new field …');
  await dialog.getByRole('textbox', { name: 'Name', exact: true }).fill('Loans agreed');
  await dialog.getByRole('button', { name: 'Add the field' }).click();
  await expect(dialog).toHaveCount(0);
  await choose(page, 'Add to the sentence', /a field for each option/);
  await choose(page, 'Choice by which', /^Stage/);
  await choose(page, 'Option of the field', 'Agreed');
  await choose(page, 'Add an option', 'all of them');
  await page.getByRole('button', { name: /^Make the \d fields/ }).click();
  await expect(dialog.getByLabel('Loans returned')).toHaveValue('Loans returned');
  await dialog.getByRole('button', { name: 'Add the fields' }).click();
  await expect(sentence).toContainText('Loans returned of those where it is Returned');
  await expect(page.getByRole('textbox', { name: 'Name' })).toHaveAttribute('placeholder', 'Loans by stage');
  await expect(page.getByText('Loans declined:')).toBeVisible();
  await takeLive(page);

  const [first] = await records(page, 'exhibition');
  await page.goto(`/w/wrenfield/records/exhibition/${first!.id}`);
  await expect(page.getByRole('group', { name: 'Fields' }).getByText('Loans requested')).toBeVisible();
});

test('fields that values are cascaded into, and links that are filled, are made in the sentence', async ({
  page,
}) => {
  const dialog = page.getByRole('dialog');
  const sentence = page.getByLabel('Sentence of the rule');
  await page.goto('/w/wrenfield/rules/new');
  await page.getByText('Cascade', { exact: true }).click();
  await choose(page, 'Type of record that cascades', 'Exhibition');
  await choose(page, 'Records that take the values', /^its Loans/);
  await page.getByRole('button', { name: /^Add a field/ }).click();
  await page.keyboard.type('new field opens');
  await page.keyboard.press('Enter');
  await expect(dialog.getByRole('textbox', { name: 'Name', exact: true })).toHaveValue('Opens');
  await dialog.getByRole('button', { name: 'Add the field' }).click();
  await expect(sentence.getByRole('row', { name: /Opens/ })).toContainText('Opens');

  await page.getByText('Link', { exact: true }).click();
  await choose(page, 'Type of record', 'Loan');
  await page.getByRole('button', { name: /^Link that is filled/ }).click();
  await page.keyboard.type('new link institution');
  await page.keyboard.press('Enter');
  await dialog.getByRole('textbox', { name: 'Name', exact: true }).fill('Venue of the loan');
  await dialog.getByRole('button', { name: 'Add the link' }).click();
  await expect(sentence).toContainText('Venue of the loan');
});
