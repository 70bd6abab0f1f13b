import ExcelJS from 'exceljs';
import { readFile } from 'node:fs/promises';
import { expect, type Page, test } from './test';

const KEY = 'mill-lane-society';

/** The books of an allotment society: tenancies of plots, and plots of sites. */
async function books(): Promise<Buffer> {
  const workbook = new ExcelJS.Workbook();
  workbook.addWorksheet('Tenancies').addRows([
    ['Reference', 'Plot', 'Before it', 'Rent (GBP)', 'Let on'],
    ['Ash 1', 'M-1', null, 42.5, new Date('2026-03-01T00:00:00Z')],
    ['Ash 2', 'M-2', 'Ash 1', 38, new Date('2026-04-15T00:00:00Z')],
    ['Elm 1', 'N-1', 'Ash 2', { formula: 'D2*2', result: 85 }, new Date('2026-05-01T00:00:00Z')],
  ]);
  workbook.addWorksheet('Plots').addRows([
    ['Number', 'Site', 'Area (m²)'],
    ['M-1', 'Mill Lane', 125.5],
    ['M-2', 'Mill Lane', 250],
    ['N-1', 'North Field', 120],
  ]);
  workbook.addWorksheet('Notes');
  workbook.addWorksheet('Sites').addRows([['Name'], ['Mill Lane'], ['North Field']]);
  return Buffer.from(await workbook.xlsx.writeBuffer());
}

const dialog = (page: Page) => page.getByRole('dialog');
const would = (page: Page) => page.getByRole('region', { name: 'What it would do' });
const fileInput = (page: Page) => page.locator('input[type=file]');
const imported = (page: Page) => page.getByRole('heading', { name: /^Imported as run/ });
const rehearse = (page: Page) => page.getByRole('button', { name: 'Rehearse the import' }).click();

test.beforeAll(async ({ request }) => {
  const { people } = (await (await request.get('/api/v1/people')).json()) as { people: { id: string }[] };
  const made = await request.post('/api/v1/workspaces', {
    data: { name: 'Mill Lane Society' },
    headers: { 'Oikon-Person': people[0]!.id },
  });
  expect(made.status()).toBe(201);
});
test.afterAll(async ({ request }) => {
  const { people } = (await (await request.get('/api/v1/people')).json()) as { people: { id: string }[] };
  await request.delete(`/api/v1/workspaces/${KEY}`, {
    data: { confirmation: 'Mill Lane Society' },
    headers: { 'Oikon-Person': people[0]!.id },
  });
});

test('a workbook becomes types that link to each other, and its rows come in, sheet after sheet', async ({
  page,
}) => {
  await test.step('each sheet is proposed as a type; links between sheets are found', async () => {
    await page.goto(`/w/${KEY}/model`);
    await page.getByRole('button', { name: 'Type from a file' }).click();
    await fileInput(page).setInputFiles({
      ...{ name: 'society.xlsx', mimeType: 'application/octet-stream', buffer: await books() },
    });
    const kindOf = (heading: string) => dialog(page).getByRole('row', { name: `Make a field of ${heading}` });
    await expect(kindOf('Plot')).toContainText('link to Plot');
    await expect(kindOf('Before it')).toContainText('link to Tenancy (itself)');
    await expect(kindOf('Let on')).toContainText('date');
    await dialog(page).getByText('Plots', { exact: true }).click();
    await expect(kindOf('Area (m²)')).toContainText('1 decimal place, m²');
    await expect(kindOf('Site')).toContainText('Named like the type Site: a link to it.');
    await expect(dialog(page).getByText('Notes', { exact: true })).toHaveCount(0);
    await dialog(page).getByRole('button', { name: 'Add 3 types' }).click();
  });

  await test.step('what is linked to comes in first, and the next sheet is offered', async () => {
    for (const [type, rows, next] of [
      ['site', 2, 'Next: take in Plots'],
      ['plot', 3, 'Next: take in Tenancies'],
      ['tenancy', 3, null],
    ] as const) {
      await expect(page).toHaveURL(new RegExp(`/records/${type}/import$`));
      await rehearse(page);
      await would(page)
        .getByRole('button', { name: `Import ${rows} rows` })
        .click();
      await expect(imported(page)).toBeVisible();
      if (next) await page.getByRole('link', { name: next }).click();
    }
    await page.getByRole('link', { name: 'See the tenancies' }).click();
    const row = page.locator('.ant-table-row', { hasText: 'Elm 1' });
    await expect(row).toContainText('85.00 GBP');
    await expect(row).toContainText('1 May 2026');
  });
});

test('a sheet of a workbook is chosen; rows that aren’t found are refused, and leave as a file', async ({
  page,
}, info) => {
  await page.goto(`/w/${KEY}/records/plot/import`);
  const workbook = new ExcelJS.Workbook();
  workbook.addWorksheet('Cover').addRows([['Of'], ['the society']]);
  workbook.addWorksheet('Corrections').addRows([
    ['Number', 'Area (m²)'],
    ['M-1', 130],
    ['M-9', 10],
  ]);
  const buffer = Buffer.from(await workbook.xlsx.writeBuffer());
  await expect(page.getByText(/^Choose a file, or drop it here/)).toBeVisible();
  await fileInput(page).setInputFiles({
    name: 'corrections.xlsx',
    mimeType: 'application/octet-stream',
    buffer,
  });
  await page.getByRole('combobox', { name: 'Sheet' }).click();
  await page.getByTitle('Corrections').click();
  await page.getByRole('combobox', { name: 'Key' }).click();
  await page.locator('.ant-select-item-option', { hasText: 'Number' }).click();
  await page.keyboard.press('Escape');
  await page.getByText('A row that isn’t found is refused').click();
  await rehearse(page);
  await expect(would(page).getByRole('region', { name: 'Refused rows' })).toContainText(
    'Line 3 There is no Plot with this Number.',
  );
  const download = page.waitForEvent('download');
  await would(page).getByRole('button', { name: 'Refused rows as a file' }).click();
  const saved = info.outputPath('refused.csv');
  await (await download).saveAs(saved);
  expect((await readFile(saved, 'utf8')).replace('\ufeff', '').split('\r\n')).toEqual([
    'Number,Area (m²),Why it was refused',
    'M-9,10,"There is no Plot with this Number. Correct it, or let rows that aren’t found make new records."',
  ]);
  await would(page).getByText('Leave the refused rows out').click();
  await would(page).getByRole('button', { name: 'Import 1 row', exact: true }).click();
  await expect(imported(page)).toBeVisible();
});

test('a table that was copied elsewhere is pasted, read and taken in', async ({ page }) => {
  await page.goto(`/w/${KEY}/records/site/import`);
  await page.getByRole('button', { name: 'Paste a table instead' }).click();
  await page.getByRole('textbox', { name: 'A table that was copied' }).fill('Name\nHill Foot\n"River"side\n');
  await page.getByRole('button', { name: 'Read the table' }).click();
  await rehearse(page);
  await expect(would(page).getByRole('region', { name: 'Refused rows' })).toContainText(
    'Line 3 Something stands between a closing quote and the separator. Correct it.',
  );
  await would(page).getByText('Leave the refused rows out').click();
  await would(page).getByRole('button', { name: 'Import 1 row', exact: true }).click();
  await expect(imported(page)).toBeVisible();
});
