import ExcelJS from 'exceljs';
import { choose, takeLive } from './sentence';
import { expect, type Page, test } from './test';

const NAME = 'Lathe Lane Repairs';

/** The books of a repair workshop: jobs on machines of customers, and the checks that jobs are given. */
async function books(): Promise<Buffer> {
  const workbook = new ExcelJS.Workbook();
  workbook.addWorksheet('Customers').addRows([
    ['Name', 'Contact'],
    ['Alder Mill', 'Mrs Reed'],
    ['Brook Dairy', 'Mr Fenn'],
  ]);
  workbook.addWorksheet('Machines').addRows([
    ['Label', 'Customer', 'Contact'],
    ['Lathe 7', 'Alder Mill', null],
    ['Press 2', 'Alder Mill', null],
    ['Churn 1', 'Brook Dairy', null],
  ]);
  workbook.addWorksheet('Jobs').addRows([
    ['Reference', 'Machine', 'Customer', 'Hours', 'Cost (GBP)', 'Urgent', 'Begun'],
    ['J-1', 'Lathe 7', null, 4.5, 180, 'yes', new Date('2026-03-02T00:00:00Z')],
    ['J-2', 'Lathe 7', 'Alder Mill', 1, 45.5, 'no', new Date('2026-04-11T00:00:00Z')],
    ['J-3', 'Churn 1', 'Brook Dairy', 2, 90, 'no', new Date('2026-05-20T00:00:00Z')],
  ]);
  workbook.addWorksheet('Checks').addRows([
    ['Title', 'Job'],
    ['Check of J-3', 'J-3'],
    ['Second check of J-3', 'J-3'],
  ]);
  return Buffer.from(await workbook.xlsx.writeBuffer());
}

const dialog = (page: Page) => page.getByRole('dialog');
const row = (page: Page, text: string) => page.locator('.ant-table-row', { hasText: text });

async function write(page: Page, kind: string): Promise<void> {
  await page.getByRole('link', { name: 'Rules', exact: true }).click();
  await page.getByRole('link', { name: 'Write a rule' }).click();
  if (kind !== 'Roll-up') await page.getByText(kind, { exact: true }).click();
}

async function see(page: Page, type: string): Promise<void> {
  await page.getByRole('link', { name: 'Records', exact: true }).click();
  await page.getByRole('radiogroup', { name: 'Type of record' }).getByText(type, { exact: true }).click();
}

/** Once the server is left nothing is reloaded: every page comes by its link. */
test('a workshop’s books become rules of all five kinds, without a reload', async ({ page }) => {
  await test.step('its sheets become types, and their rows records', async () => {
    await page.goto('/workspaces');
    await expect(page.getByRole('link', { name: 'Wrenfield Touring' })).toBeVisible();
    await page.getByRole('button', { name: 'New workspace' }).click();
    await dialog(page).getByRole('textbox', { name: 'Name', exact: true }).fill(NAME);
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Type from a file' }).click();
    await page.locator('input[type=file]').setInputFiles({
      ...{ name: 'books.xlsx', mimeType: 'application/octet-stream', buffer: await books() },
    });
    await dialog(page).getByRole('button', { name: 'Add 4 types' }).click();
    for (const [rows, next] of [
      [2, 'Next: take in Machines'],
      [3, 'Next: take in Jobs'],
      [3, 'Next: take in Checks'],
      [2, null],
    ] as const) {
      await page.getByRole('button', { name: 'Rehearse the import' }).click();
      await page.getByRole('button', { name: `Import ${rows} rows` }).click();
      await expect(page.getByRole('heading', { name: /^Imported as run/ })).toBeVisible();
      if (next) await page.getByRole('link', { name: next }).click();
    }
  });

  await test.step('roll-up: what each machine has cost', async () => {
    await write(page, 'Roll-up');
    await choose(page, 'Type of record', 'Machine');
    await choose(page, 'Aggregate', /^sum/);
    await choose(page, 'Value that is brought together', /^Cost/);
    await choose(page, 'Field that is kept', 'a new field …');
    await dialog(page).getByRole('textbox', { name: 'Name', exact: true }).fill('Spent');
    await dialog(page).getByRole('button', { name: 'Add the field' }).click();
    await takeLive(page);
    await see(page, 'Machines');
    await expect(row(page, 'Lathe 7')).toContainText('225.50 GBP');
  });

  await test.step('formula: a line in words', async () => {
    await write(page, 'Formula');
    await choose(page, 'Type of record', 'Job');
    await page.getByRole('button', { name: 'Functions …' }).first().click();
    await page.getByRole('textbox', { name: 'Search the functions' }).fill('as people read');
    await page.getByRole('button', { name: 'words(value)' }).click();
    await page.keyboard.type('begun) + ", " + words(cost)');
    await choose(page, 'Field that is kept', 'a new field …');
    await dialog(page).getByRole('textbox', { name: 'Name', exact: true }).fill('Line');
    await dialog(page).getByRole('button', { name: 'Add the field' }).click();
    await takeLive(page);
    await see(page, 'Jobs');
    await page.getByRole('link', { name: 'J-1' }).click();
    await expect(page.getByRole('form', { name: 'Fields' })).toContainText('2 Mar 2026, 180.00 GBP');
  });

  await test.step('cascade: who to ask goes to every machine', async () => {
    await write(page, 'Cascade');
    await choose(page, 'Type of record that cascades', 'Customer');
    await choose(page, 'Records that take the values', /^its Machines/);
    await page.getByRole('button', { name: /^When/ }).click();
    await page.getByRole('radio', { name: 'kept in step: always equal' }).check();
    await page.getByRole('button', { name: 'Done' }).click();
    const table = page.getByRole('table', { name: 'What is cascaded' });
    if ((await table.count()) === 0) await choose(page, 'Add a field', /^Contact/);
    await expect(table).toContainText('Contact');
    await takeLive(page);
    await see(page, 'Machines');
    await expect(row(page, 'Churn 1')).toContainText('Mr Fenn');
  });

  await test.step('link: a job is linked to its machine’s customer', async () => {
    await write(page, 'Link');
    await choose(page, 'Type of record', 'Job');
    await page.getByRole('button', { name: /^Link that is filled/ }).click();
    await page.getByRole('menuitem', { name: 'Customer' }).click();
    await choose(page, 'What it is linked to', /^the Customer of its Machine|^its Machine’s customer/i);
    await takeLive(page);
    await see(page, 'Jobs');
    await expect(row(page, 'J-1')).toContainText('Alder Mill');
  });

  await test.step('create: an urgent job is given a check', async () => {
    await write(page, 'Create');
    await choose(page, 'Type of record for which one is made', 'Job');
    await choose(page, 'Add a test on', 'Urgent');
    await expect(page.getByRole('button', { name: 'Compared with: yes' })).toBeVisible();
    await choose(page, 'What is made', 'Check');
    await page.getByRole('button', { name: /^What Title takes/ }).click();
    await expect(page.locator('[role="menuitem"]:focus')).toHaveCount(1);
    await page.keyboard.type('text');
    await page.keyboard.press('Enter');
    await page.getByRole('textbox', { name: 'Text of Title' }).fill('Check of ');
    await page.getByRole('combobox', { name: 'Put a value into the text of Title' }).click();
    await page.getByTitle('Reference', { exact: true }).click();
    await expect(page.getByRole('textbox', { name: 'Text of Title' })).toHaveValue('Check of {reference}');
    await page.getByRole('button', { name: 'Done' }).click();
    await expect(page.getByRole('region', { name: 'Worked example' })).toContainText('Check of J-1');
    await takeLive(page);
    await see(page, 'Jobs');
    await page.getByRole('link', { name: 'J-2' }).click();
    await page.getByRole('combobox', { name: 'Urgent' }).click();
    await page.getByTitle('yes', { exact: true }).click();
    await page.getByRole('form', { name: 'Fields' }).getByRole('button', { name: 'Save' }).click();
    await expect(page.getByRole('region', { name: 'Checks' })).toContainText('Check of J-2');
  });
});

test.afterAll(async ({ request }) => {
  const { people } = (await (await request.get('/api/v1/people')).json()) as { people: { id: string }[] };
  await request.delete('/api/v1/workspaces/lathe-lane-repairs', {
    data: { confirmation: NAME },
    headers: { 'Oikon-Person': people[0]!.id },
  });
});
