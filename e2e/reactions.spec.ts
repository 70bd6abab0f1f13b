import { expect, type Page, test } from './test';
import { choose } from './sentence';

const example = (page: Page) => page.getByRole('region', { name: 'Worked example' });

/** Chooses from the list that a field opens. */
async function pick(page: Page, field: string, option: string): Promise<void> {
  await page.getByRole('combobox', { name: field }).click();
  await page.getByTitle(option, { exact: true }).last().click();
}

test('a rule that reacts is written with its table of results, taken live from now on, and paused', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/rules/new');
  await choose(page, 'Type of record', 'Loan');
  await choose(page, 'Aggregate', /^all/);
  await choose(page, 'Records that are brought together', /^Artefacts/);
  await choose(page, 'Value that is brought together', /^Packed/);

  await test.step('a table of results lets it write into another kind of field', async () => {
    await choose(page, 'Add to the sentence', /^a table of results/);
    await choose(page, 'Field that is kept', /^Stage/);
    await page.getByRole('button', { name: /^What is written for which result/ }).click();
    await pick(page, 'What row 1 writes', 'Returned');
    await page.getByRole('button', { name: 'Leave row 2 out' }).click();
    await page.getByRole('radio', { name: 'Otherwise it is left as it is' }).check();
    await page.getByRole('button', { name: 'Done' }).click();
    await expect(page.getByRole('button', { name: /^What is written for which result/ })).toHaveText(
      'Returned when yes, otherwise left as it is',
    );
    await expect(page.getByText('change', { exact: false }).first()).toBeVisible();
  });

  await test.step('beside it stands which result writes what, and which holds', async () => {
    await page.getByRole('combobox', { name: 'Sample Loan' }).click();
    await page.keyboard.type('Thornwick Castle, court robes');
    await page.getByTitle('Thornwick Castle, court robes', { exact: true }).last().click();
    await expect(
      example(page).getByText(/^The result is (yes|no)\. When that changes, Stage becomes:/),
    ).toBeVisible();
    await expect(example(page).getByRole('row', { name: /Returned.*when yes/ })).toBeVisible();
  });

  await test.step('it applies only where a condition on the record holds', async () => {
    await page.getByRole('button', { name: 'only where …' }).first().click();
    await page.getByRole('menuitem', { name: /^Stage/ }).click();
    await choose(page, 'Compared with', 'Agreed');
  });

  await test.step('taken live it asks about what matches already', async () => {
    await page.getByRole('button', { name: 'Save as draft' }).click();
    await expect(page).toHaveURL(/\/rules\/[0-9a-f-]{36}$/);
    await page.getByRole('button', { name: 'Take it live …' }).click();
    const dialog = page.getByRole('dialog');
    await expect(dialog.getByRole('radio', { name: /^Only on what comes from now on/ })).toBeChecked();
    await dialog.getByRole('button', { name: /^Take it live/ }).click();
    await expect(
      page.getByText('Live: it acts when its result changes. People may edit the field too.'),
    ).toBeVisible();
  });

  await test.step('people may still enter the field, which names the rule', async () => {
    const rule = page.url();
    await page.goto('/w/wrenfield/records/loan');
    await page.locator('.ant-table-row').getByRole('link').first().click();
    await page.getByRole('button', { name: /^Rule of Stage: .* may change this\.$/ }).click();
    await page.getByRole('button', { name: /^Open what Stage of loans/ }).click();
    await expect(page.getByRole('dialog').getByText(/^The result is/)).toBeVisible();
    await page.goto(rule);
    await page.getByRole('button', { name: 'Pause' }).click();
    await expect(page.getByText('Paused: it changes nothing.')).toBeVisible();
  });
});

test('the last of something takes several fields of the same record together', async ({ page }) => {
  await page.goto('/w/wrenfield/rules');
  await page
    .getByRole('listitem')
    .filter({ hasText: 'On every Artefact, keep Last inspected on' })
    .getByRole('link')
    .click();
  await expect(
    page.getByRole('button', { name: 'Field that is kept with it: Last inspected by' }),
  ).toBeVisible();
  await expect(page.getByRole('button', { name: 'What is taken with it: Inspector' })).toBeVisible();
  await choose(page, 'Add to the sentence', /^another field of it/);
  await expect(page.getByRole('button', { name: 'Field that is kept with it: a field' })).toBeVisible();
  await page.getByRole('button', { name: 'Field that is kept with it: a field' }).click();
  await page.getByRole('menuitem', { name: 'leave this out' }).click();
  await expect(page.getByRole('button', { name: 'Field that is kept with it: a field' })).toHaveCount(0);
});

test('an amount in any currency is entered with its currency, and comes together at a rate', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/rules');
  await page.getByRole('listitem').filter({ hasText: 'keep Lent total' }).getByRole('link').click();
  await expect(page.getByRole('button', { name: 'Currency: GBP' })).toBeVisible();
  await choose(page, 'Day whose rate counts', 'Due back');
  await expect(page.getByRole('button', { name: 'Day whose rate counts: Due back' })).toBeVisible();
  await page.goto('/w/wrenfield/records/rate');
  await page.getByRole('button', { name: 'Fetch rates' }).click();
  await expect(page.getByText(/rates are added|All rates are here already/).first()).toBeVisible();
});
