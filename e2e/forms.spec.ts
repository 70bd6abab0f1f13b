import { type APIRequestContext, expect, type Page, test } from './test';

/** How numbers and dates are written: what is typed is read so, what is shown is shown so. */

const LOAN = 'Orrery House, weavers’ tools';
const WORKSPACE = '/api/v1/workspaces/wrenfield';

const personOf = async (request: APIRequestContext): Promise<string> => {
  const { people } = (await (await request.get(`${WORKSPACE}/people`)).json()) as {
    people: { id: string }[];
  };
  return people[0]!.id;
};

const patch = async (request: APIRequestContext, address: string, form: unknown) => {
  const headers = { 'Oikon-Person': await personOf(request) };
  expect((await request.patch(address, { headers, data: { form } })).status()).toBe(200);
};

const PLAIN = { decimal: '.', grouping: ',', dates: 'dayFirst' };

test.afterEach(async ({ request }) => {
  await patch(request, WORKSPACE, PLAIN);
  await patch(request, `/api/v1/people/${await personOf(request)}`, null);
});

async function openLoan(page: Page): Promise<void> {
  await page.goto('/w/wrenfield/records/loan');
  await page.getByPlaceholder('Search loans').fill(LOAN);
  await page.getByRole('link', { name: LOAN }).click();
  await expect(page.getByRole('form', { name: 'Fields' })).toBeVisible();
}

async function choose(page: Page, label: string, option: string): Promise<void> {
  await page.getByRole('combobox', { name: label }).click();
  await page.locator('.ant-select-item-option').filter({ hasText: option }).click();
}

test('a comma isn’t taken for something else; whoever writes commas chooses so, and types and reads them', async ({
  page,
  request,
}) => {
  await openLoan(page);
  const fee = page.getByRole('textbox', { name: 'Fee' });
  const save = page.getByRole('button', { name: 'Save', exact: true });
  await fee.fill('42,5');
  await fee.press('Tab');
  await expect(page.getByText('Decimal places come after a point here: write 42.5.')).toBeVisible();
  await expect(save).toBeDisabled();
  await expect(fee).toHaveValue('42,5');
  await page.getByRole('button', { name: 'Give up changes' }).click();

  await page.getByRole('button', { name: /^Acting as/ }).click();
  await page.getByRole('menuitem', { name: 'Numbers and dates …' }).click();
  await choose(page, 'Numbers, Everybody', '1.250,50');
  await expect(page.getByText('You will read 1.250,50 and 31 Dec 2026')).toBeVisible();
  await page.getByRole('dialog').getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('textbox', { name: 'Insured value' })).toHaveValue(/^[\d.]+,\d\d$/);

  await fee.fill('1.042,5');
  await fee.press('Tab');
  await expect(fee).toHaveValue('1.042,50');
  await save.click();
  await expect(page.getByText(/^Saved\./)).toBeVisible();
  const [, id] = /loan\/([0-9a-f-]+)/.exec(page.url())!;
  const stored = (await (await request.get(`${WORKSPACE}/records/loan/${id}`)).json()) as { record: object };
  expect(stored.record).toMatchObject({ values: { fee: { amount: '1042.50', currency: 'GBP' } } });
  // Lists and conditions write and read the same way.
  await page.goto('/w/wrenfield/records/loan');
  await expect(page.getByText(/^[\d.]+,\d\d GBP$/).first()).toBeVisible();
});

test('a person writes in a way of their own, whatever the workspace does', async ({ page }) => {
  await openLoan(page);
  await page.getByRole('button', { name: /^Acting as/ }).click();
  await page.getByRole('menuitem', { name: 'Numbers and dates …' }).click();
  await page.getByRole('radio', { name: 'In a way of my own' }).check();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('combobox', { name: /^Dates, (?!Everybody)/ }).click();
  await page.locator('.ant-select-item-option').filter({ hasText: 'Dec 31, 2026' }).click();
  await dialog.getByRole('button', { name: 'Save' }).click();
  const due = page.getByRole('textbox', { name: 'Due back' });
  await expect(due).toHaveValue(/^[A-Z][a-z]{2} \d+, \d{4}$/);
  await due.fill('9/15/26');
  await due.press('Enter');
  await expect(due).toHaveValue('Sep 15, 2026');
});

test('days are typed as people say them; what is none is told; Enter takes the day and saves nothing', async ({
  page,
}) => {
  await openLoan(page);
  const due = page.getByRole('textbox', { name: 'Due back' });
  const before = await due.inputValue();
  await due.fill('17 sep 2027');
  await due.press('Enter');
  await expect(due).toHaveValue('17 Sep 2027');
  await expect(page.getByText('Due back changed, not saved yet.')).toBeVisible();
  await due.fill('31.02.2027');
  await due.press('Tab');
  await expect(page.getByText('and Feb 2027 has 28 days')).toBeVisible();
  await expect(due).toHaveValue('31.02.2027');
  await expect(page.getByRole('button', { name: 'Save', exact: true })).toBeDisabled();
  await page.getByRole('button', { name: 'Choose Due back in a calendar' }).click();
  await page.locator('.ant-picker-cell-in-view').filter({ hasText: /^15$/ }).click();
  await expect(due).toHaveValue(/^15 /);
  await page.getByRole('button', { name: 'Give up changes' }).click();
  await expect(due).toHaveValue(before);
});

test('the bench reads and shows numbers and days the same way', async ({ page, request }) => {
  await patch(request, WORKSPACE, { decimal: ',', grouping: ' ', dates: 'dayFirst' });
  await page.goto('/w/wrenfield/bench');
  const value = page.getByRole('button', { name: /^Insured value of .* GBP\. Edit$/ }).first();
  await expect(value).toContainText(/,\d\d GBP/);
  await value.click();
  const input = page.getByRole('textbox', { name: /^Insured value of/ });
  await input.fill('1.5');
  await input.press('Enter');
  await expect(page.getByText('Decimal places come after a comma here: write 1,5.')).toBeVisible();
  await input.fill('12 000,5');
  await input.press('Enter');
  await expect(page.getByText('12 000,50 GBP').first()).toBeVisible();
});
