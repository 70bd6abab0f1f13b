import { records } from './records';
import { expect, type Page, test } from './test';

const LOAN = 'Orrery House, weavers’ tools';

/** What is wrong, as the page tells it (the framework has an announcer of its own beside it). */
const told = (page: Page) => page.locator('[role="alert"]:not(#__next-route-announcer__)');

async function openLoan(page: Page): Promise<void> {
  await page.goto('/w/wrenfield/records/loan');
  await page.getByPlaceholder('Search loans').fill(LOAN);
  await page.getByRole('link', { name: LOAN }).click();
  await expect(page.getByRole('form', { name: 'Fields' })).toBeVisible();
}

test('what doesn’t fit is told at its field, and can’t be saved', async ({ page }) => {
  await openLoan(page);
  const fee = page.getByRole('textbox', { name: 'Fee' });
  await fee.fill('twelve');
  await fee.press('Tab');
  await expect(told(page)).toContainText(
    'Expected a number with at most 2 decimal places, such as 1,250.50, found “twelve”',
  );
  await expect(page.getByRole('button', { name: 'Save', exact: true })).toBeDisabled();
  await page.getByRole('textbox', { name: 'Title' }).fill('');
  await expect(page.getByText('Title is required. Enter a value.')).toBeVisible();
  await page.getByRole('button', { name: 'Give up changes' }).click();
  await expect(page.getByRole('textbox', { name: 'Title' })).toHaveValue(LOAN);
});

test('when somebody else was quicker, both versions stand side by side and nothing that was typed is lost', async ({
  page,
  request,
}) => {
  await openLoan(page);
  await page.getByRole('textbox', { name: 'Climate requirement' }).fill('19 °C');
  await page.getByRole('textbox', { name: 'Fee' }).fill('12.00');
  const [, id] = /loan\/([0-9a-f-]+)/.exec(page.url())!;
  const path = `/api/v1/workspaces/wrenfield`;
  const { people } = (await (await request.get(`${path}/people`)).json()) as { people: { id: string }[] };
  const { record } = (await (await request.get(`${path}/records/loan/${id}`)).json()) as {
    record: { version: number };
  };
  const values = { fee: { amount: '5.00', currency: 'GBP' }, courierInstruction: 'By rail.' };
  const patched = await request.patch(`${path}/records/loan/${id}`, {
    headers: { 'Oikon-Person': people[1]!.id },
    data: { version: record.version, values },
  });
  expect(patched.status()).toBe(200);
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByRole('row', { name: /^Courier instruction/ })).toContainText('By rail.');
  await expect(dialog.getByRole('row', { name: /^Climate requirement/ })).toContainText('19 °C');
  await dialog.getByRole('radio', { name: 'Fee: take the other’s' }).check();
  await dialog.getByRole('button', { name: 'Take these, then look and save' }).click();
  await expect(page.getByRole('textbox', { name: 'Fee' })).toHaveValue('5.00');
  await expect(page.getByRole('textbox', { name: 'Climate requirement' })).toHaveValue('19 °C');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText('Saved.', { exact: true })).toBeVisible();
  const now = (await (await request.get(`${path}/records/loan/${id}`)).json()) as { record: object };
  expect(now.record).toMatchObject({ values: { climate: '19 °C', ...values } });
});

test('who acts can be changed, and stands in the history', async ({ page }) => {
  await openLoan(page);
  await page.getByRole('button', { name: /^Acting as Ines Valcourt/ }).click();
  await page.getByRole('menuitem', { name: /Priya Ramanathan/ }).click();
  await page.getByRole('textbox', { name: 'Climate requirement' }).fill('18 °C');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText('Saved.', { exact: true })).toBeVisible();
  await expect(page.getByRole('region', { name: 'History' }).getByRole('listitem').first()).toContainText(
    'Priya Ramanathan saved',
  );
});

test('what isn’t there is told in words', async ({ page }) => {
  await page.goto('/w/wrenfield/records/loan/00000000-0000-7000-8000-000000000000');
  await expect(told(page)).toContainText('There is no such Loan');
  await page.goto('/w/wrenfield/records/pallet');
  await expect(told(page)).toContainText('There is no type “pallet”');
  await page.goto('/w/wrenfield/rules/00000000-0000-7000-8000-000000000000');
  await expect(told(page)).toContainText('There is no such rule');
  await page.goto('/w/wrenfield/records/loan');
  await page.getByPlaceholder('Search loans').fill('no such title');
  await expect(page.getByText('None of these loans is like that.')).toBeVisible();
});

test('everything is searched from anywhere by keyboard, and a list leaves as a file', async ({ page }) => {
  await page.goto('/w/wrenfield/rules');
  await expect(page.getByRole('listitem').first()).toBeVisible();
  await page.keyboard.press('Control+k');
  const search = page.getByRole('combobox', { name: 'Search everything' });
  await search.fill('rivers of');
  await expect(page.getByRole('option', { name: /Rivers of Silk Exhibition/ })).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Rivers of Silk' })).toBeVisible();
  await page.keyboard.press('Control+k');
  await search.fill('no such thing anywhere');
  await expect(page.getByText('Nothing has that in its name.')).toBeVisible();
  await page.keyboard.press('Escape');

  await page.goto('/w/wrenfield/records/exhibition');
  await expect(page.locator('.ant-table-row').first()).toBeVisible();
  await page.getByRole('button', { name: 'Export' }).click();
  const download = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: 'These columns as CSV' }).click();
  const file = await download;
  expect(file.suggestedFilename()).toBe('exhibition.csv');
  const chunks: Buffer[] = [];
  for await (const chunk of await file.createReadStream()) chunks.push(chunk as Buffer);
  expect(Buffer.concat(chunks).toString('utf8')).toContain('Rivers of Silk,');
});

test('a record shows what it hangs under, a hierarchy opens level by level, and dated children stand over time', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/records/institution');
  await page.getByRole('link', { name: 'Aldermoor Museums Trust', exact: true }).click();
  const parts = page.getByRole('region', { name: 'Parts' });
  await expect(parts.getByRole('columnheader', { name: 'Lent total' })).toBeVisible();
  await parts.getByRole('button', { name: 'Open what hangs under Aldermoor Maritime House' }).click();
  await expect(parts).toContainText('Nothing hangs under it.');
  await page.goto('/w/wrenfield/records/exhibition');
  await page.getByRole('link', { name: 'Rivers of Silk' }).click();
  await expect(page.getByRole('navigation', { name: 'Way here' })).toContainText(
    'Exhibitions › Aldermoor Museums Trust › Aldermoor Museum of Textiles',
  );
  await page.getByRole('button', { name: 'Status sheets over time' }).click();
  await expect(
    page.getByRole('img', { name: 'Loans mark, Transport mark, Installation mark over time' }),
  ).toBeVisible();
  await expect(page.getByRole('dialog').getByRole('row', { name: /18 Dec 2026/ })).toContainText('Amber');
});

test('a list on a record goes on down its hierarchy, and says under which each hangs', async ({ page }) => {
  const trust = (await records(page, 'institution')).find(({ values }) =>
    Object.values(values).includes('Aldermoor Museums Trust'),
  );
  await page.goto(`/w/wrenfield/records/institution/${trust!.id}`);
  const list = page.getByRole('region', { name: 'Loans out', exact: true });
  const beneath = list.getByRole('row', { name: /Aldermoor Maritime House, orreries/ });
  await expect(list.getByLabel('Whose Loans out these are')).toBeVisible();
  await expect(beneath).toHaveCount(0);
  await list.getByLabel('Whose Loans out these are').click();
  await page.getByTitle('of it and all parts beneath it').last().click();
  await expect(beneath).toContainText('Aldermoor Maritime House');
  await expect(list.getByRole('columnheader', { name: 'Lender' })).toBeVisible();
});
