import { expect, type Page, test } from './test';
import { choose, takeLive } from './sentence';

const NAME = 'Harbour shows';
const EXHIBITIONS = [
  'Title,Venue,Opens,Climate control',
  'Salt and Sail,Kittiwake Hall,2027-03-01,yes',
  'Lamps of the Coast,Kittiwake Hall,2027-06-15,no',
  'Nets and Knots,,2027-09-30,no',
].join('\r\n');
const LOANS = [
  'Title;Exhibition;Stage;Insured value (GBP);Due back',
  'Ship models;Salt and Sail;Agreed;12.250,00;01.09.2027',
  'Sail cloth;Salt and Sail;Agreed;900,50;01.09.2027',
  'Harbour view;Salt and Sail;Requested;4.000,00;15.10.2027',
  'Lamp room;Lamps of the Coast;Agreed;7.500,00;13.12.2027',
  'Signal book;Lamps of the Coast;Declined;300,00;13.12.2027',
  'Log of 1871;Lamps of the Coast;Declined;120,00;13.12.2027',
  'Fog horn;Lamps of the Coast;Requested;1.000,00;13.12.2027',
  'Chart of shoals;Lamps of the Coast;Requested;80,00;13.12.2027',
  'Pilot’s coat;Salt and Sail;Declined;60,00;01.09.2027',
  'Lens;The Lighthouse;Agreed;60,00;01.09.2027',
  'Oil cans;Lamps of the Coast;Agreed;20,00;13.12.2027',
  'Bell;Salt and Sail;Requested;10,00;01.09.2027',
].join('\n');

const fileOf = (name: string, text: string) => ({ name, mimeType: 'text/csv', buffer: Buffer.from(text) });
const dialog = (page: Page) => page.getByRole('dialog');
const would = (page: Page) => page.getByRole('region', { name: 'What it would do' });
const fileInput = (page: Page) => page.locator('input[type=file]');

test('from an empty workspace and two CSV files to a total that is right', async ({ page }) => {
  await test.step('an empty workspace is made', async () => {
    await page.goto('/workspaces');
    await page.getByRole('button', { name: 'New workspace' }).click();
    await dialog(page).getByRole('textbox', { name: 'Name', exact: true }).fill(NAME);
    await dialog(page).getByRole('button', { name: 'Make' }).click();
    await expect(page).toHaveURL(/\/w\/harbour-shows\/model$/);
    await expect(page.getByText('There is no type of record yet')).toBeVisible();
    await page.getByRole('link', { name: 'Bench', exact: true }).click();
    await expect(page.getByText('There is no type of record yet')).toBeVisible();
    await page.getByRole('link', { name: 'Model', exact: true }).click();
  });

  await test.step('the first file becomes a type, and its rows records', async () => {
    await page.getByRole('button', { name: 'Type from a file' }).click();
    await fileInput(page).setInputFiles(fileOf('exhibitions.csv', EXHIBITIONS));
    await expect(dialog(page).getByRole('textbox', { name: 'Name', exact: true })).toHaveValue('Exhibition');
    await expect(dialog(page).getByRole('row', { name: /Opens/ })).toContainText('date');
    await expect(dialog(page).getByRole('row', { name: /Climate control/ })).toContainText('yes/no');
    await dialog(page).getByRole('button', { name: 'Add the type' }).click();
    await expect(page).toHaveURL(/\/records\/exhibition\/import$/);
    await page.getByRole('button', { name: 'Rehearse the import' }).click();
    await expect(would(page).getByRole('region', { name: 'New records' })).toContainText('Salt and Sail');
    await would(page).getByRole('button', { name: 'Import 3 rows' }).click();
    await expect(page.getByRole('heading', { name: /^Imported as run/ })).toBeVisible();
    await page.getByRole('link', { name: 'Bench', exact: true }).click();
    await expect(page.getByText('No type has records beneath it yet')).toBeVisible();
    await page.getByRole('link', { name: 'Records', exact: true }).click();
  });

  await test.step('the second file’s column becomes a link to the first type', async () => {
    await page.getByRole('link', { name: 'Model', exact: true }).click();
    await page.getByRole('button', { name: 'Type from a file' }).click();
    await fileInput(page).setInputFiles(fileOf('loans.csv', LOANS));
    const exhibition = dialog(page).getByRole('row', { name: /Make a field of Exhibition/ });
    await expect(exhibition).toContainText('Named like the type Exhibition: a link to it.');
    const stage = dialog(page).getByRole('row', { name: /Make a field of Stage/ });
    await expect(stage).toContainText('3 options');
    await dialog(page).getByRole('button', { name: 'Add the type' }).click();
    await expect(page).toHaveURL(/\/records\/loan\/import$/);
  });

  await test.step('a row that names what isn’t there is refused with its line, and left out', async () => {
    await page.getByRole('button', { name: 'Rehearse the import' }).click();
    await expect(would(page).getByRole('region', { name: 'Refused rows' })).toContainText(
      'Line 11 Exhibition: there is no Exhibition whose Title is “The Lighthouse”.',
    );
    await expect(would(page).getByRole('button', { name: 'Import 11 rows' })).toBeDisabled();
    await would(page).getByText('Leave the refused rows out').click();
    await would(page).getByRole('button', { name: 'Import 11 rows' }).click();
    await expect(page.getByRole('heading', { name: /^Imported as run/ })).toBeVisible();
  });

  await test.step('a roll-up is written, its field made within the sentence, and taken live', async () => {
    await page.getByRole('link', { name: 'Rules', exact: true }).click();
    await page.getByRole('link', { name: 'Write a rule' }).click();
    await choose(page, 'Type of record', 'Exhibition');
    await choose(page, 'Aggregate', /^sum/);
    await choose(page, 'Records that are brought together', /^Loans/);
    await choose(page, 'Value that is brought together', /^Insured value/);
    await choose(page, 'Field that is kept', 'a new field …');
    await dialog(page).getByRole('textbox', { name: 'Name', exact: true }).fill('Insured total');
    await dialog(page).getByRole('button', { name: 'Add the field' }).click();
    await choose(page, 'Add a test on', 'Stage');
    await choose(page, 'Compared with', 'Agreed');
    await takeLive(page);
  });

  await test.step('the totals are those that a calculator gives', async () => {
    await page.getByRole('link', { name: 'Records', exact: true }).click();
    const row = (title: string) => page.locator('.ant-table-row', { hasText: title });
    await expect(row('Salt and Sail')).toContainText('13,150.50 GBP'); // 12,250.00 + 900.50
    await expect(row('Lamps of the Coast')).toContainText('7,520.00 GBP'); // 7,500.00 + 20.00
    await expect(row('Nets and Knots')).toContainText('0.00 GBP');
  });

  await test.step('the workspace is copied, and both are removed by typing their names', async () => {
    await page.goto('/workspaces');
    await page.getByRole('button', { name: `Copy ${NAME}` }).click();
    await dialog(page).getByRole('button', { name: 'Copy' }).click();
    const copy = `${NAME} – trial`;
    await page.getByRole('link', { name: copy }).click();
    await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible();
    await page.getByRole('link', { name: 'Rules', exact: true }).click();
    await expect(page.getByRole('heading', { name: 'Rules on Exhibitions' })).toBeVisible();
    await page.getByRole('link', { name: 'Records', exact: true }).click();
    await expect(page.locator('.ant-table-row', { hasText: 'Salt and Sail' })).toContainText('13,150.50 GBP');
    for (const name of [copy, NAME]) {
      await page.goto('/workspaces');
      await page.getByRole('button', { name: `Remove ${name}`, exact: true }).click();
      const remove = dialog(page).getByRole('button', { name: 'Remove for good' });
      await expect(remove).toBeDisabled();
      await dialog(page).getByRole('textbox', { name: 'The workspace’s name' }).fill(name);
      await dialog(page).getByRole('checkbox').check();
      await remove.click();
      await expect(page.getByRole('link', { name, exact: true })).toHaveCount(0);
    }
  });
});
