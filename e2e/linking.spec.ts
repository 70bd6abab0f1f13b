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

test('one link of a required open link is filled by a rule: nobody needs to enter it, but where it finds none', async ({
  page,
}) => {
  const by = { headers: await headers(page) };
  const crate = (await records(page, 'crate')).find(({ values }) => values.label)!;
  const label = String(crate.values.label);
  await test.step('the rule is written like any other; what must be there is left where none is found', async () => {
    await page.goto('/w/wrenfield/rules/new');
    await page.getByText('Link', { exact: true }).click();
    await choose(page, 'Type of record', 'Inspection');
    await choose(page, 'Link that is filled', /^Crate/);
    const sentence = page.getByRole('group', { name: 'Sentence of the rule' });
    await expect(sentence).toContainText('On every Inspection whose Concerns names no other');
    await choose(page, 'What it is linked to', /^the Crate with the same/);
    await choose(page, 'What Label must be the same as', /^Title/);
    await expect(sentence).toContainText('left as it is');
    await page.getByRole('button', { name: 'Save as draft' }).click();
    await page.getByRole('button', { name: 'Take it live …' }).click();
    await page
      .getByRole('dialog')
      .getByRole('button', { name: /^Take it live/ })
      .click();
    await expect(page.locator('header').getByText('Live', { exact: true })).toBeVisible();
  });
  const rule = page.url().split('/').at(-1)!;

  await test.step('a record that names one by its title is saved with that crate', async () => {
    await page.goto('/w/wrenfield/records/inspection/new');
    await expect(page.getByText('required, filled by a rule where left empty')).toBeVisible();
    await page.getByRole('textbox', { name: 'Title' }).fill(label.toUpperCase());
    await page.getByRole('button', { name: 'Save' }).click();
    await expect(page.getByRole('navigation', { name: 'Way here' })).toContainText(label, {
      ignoreCase: true,
    });
  });

  await test.step('one for which none is found is refused in words, and what was entered stays', async () => {
    await page.goto('/w/wrenfield/records/inspection/new');
    await page.getByRole('textbox', { name: 'Title' }).fill('Nothing like it');
    await page.getByRole('button', { name: 'Save' }).click();
    await expect(page.getByRole('alert').first()).toContainText(
      'Concerns is required. Choose a record of type Artefact or Crate.',
    );
    await expect(page.getByRole('textbox', { name: 'Title' })).toHaveValue('Nothing like it');
  });

  for (const state of ['paused', 'retired'])
    await page.request.post(`${api}/rules/${rule}/state`, { ...by, data: { state } });
});
