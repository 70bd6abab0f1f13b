import { expect, type Page, test } from './test';
import { api, headers, records } from './records';
import { choose } from './sentence';

const example = (page: Page) => page.getByRole('region', { name: 'Worked example' });

test('a link rule is written by what is the same, and worked out on the sample at once', async ({ page }) => {
  await page.goto('/w/wrenfield/rules/new');
  await page.getByText('Link', { exact: true }).click();
  await choose(page, 'Type of record', 'Shipment');
  await page.getByRole('button', { name: /^Link that is filled/ }).click();
  await page.getByRole('menuitem', { name: 'Exhibition' }).click();
  await choose(page, 'What it is linked to', /^the Exhibition with the same/);
  await choose(page, 'What Title must be the same as', /^Leg/);
  await expect(example(page).getByRole('status')).toContainText('Exhibition by this rule');
  await choose(page, 'Of several', /^a person is asked/);
  await expect(
    page.getByText(/A person is asked only where the link is filled when it is empty/),
  ).toBeVisible();
  await choose(page, 'When it holds', /^where it is empty, link/);
  await expect(page.getByText(/A person is asked only where/)).toHaveCount(0);
});

test('the top lender is kept: nobody enters it, and it opens into the way that it went', async ({ page }) => {
  const institutions = new Map((await records(page, 'institution')).map((one) => [one.id, one]));
  const loan = (await records(page, 'loan')).find(({ values }) => values.lender !== values.topLender)!;
  const top = String(institutions.get(loan.values.topLender as string)!.values.name);
  await page.goto(`/w/wrenfield/records/loan/${loan.id}`);
  await expect(page.getByRole('form', { name: 'Fields' })).toContainText(top);
  await expect(page.getByRole('combobox', { name: 'Top lender' })).toHaveCount(0);
  await page.getByRole('button', { name: /^Top lender: / }).click();
  await expect(page.getByRole('dialog')).toContainText('the topmost over Part of from its Lender');
  await page.goto(`/w/wrenfield/records/institution/${loan.values.topLender as string}`);
  await expect(page.getByRole('region', { name: 'Loans of the whole house' })).toContainText(
    String(loan.values.title),
  );
});

test('of two crates with the same label a person chooses in Today', async ({ page }) => {
  const by = await headers(page);
  const [crate] = await records(page, 'crate');
  const label = String(crate!.values.label);
  await page.request.post(`${api}/records/crate`, {
    data: { values: { label: label.toUpperCase() } },
    headers: by,
  });
  const piece = (await records(page, 'artefact')).find(({ values }) => !values.crate && !values.crateLabel)!;
  await page.request.patch(`${api}/records/artefact/${piece.id}`, {
    ...{ data: { version: piece.version, values: { crateLabel: label } }, headers: by },
  });
  await page.goto('/w/wrenfield/today');
  const title = String(piece.values.title);
  await page.getByRole('button', { name: `Which of several for ${title}` }).click();
  const panel = page.getByRole('region', { name: 'The proposal' });
  await expect(panel.getByRole('button', { name: 'Link it so' })).toBeDisabled();
  await panel
    .getByRole('radio', { name: new RegExp(`^${label}`) })
    .first()
    .check();
  await panel.getByRole('button', { name: 'Link it so' }).click();
  await expect(page.getByText('Approved.')).toBeVisible();
  const after = (await records(page, 'artefact')).find(({ id }) => id === piece.id)!;
  expect(after.values.crate).toBe(crate!.id);
});
