import { expect, type Page, test } from './test';
import { choose } from './sentence';

const field = (page: Page, name: string) =>
  page.getByRole('form', { name: 'Fields' }).getByRole('group', { name, exact: true });

async function openExhibition(page: Page, title: string): Promise<void> {
  await page.goto('/w/wrenfield/records/exhibition');
  await page.getByRole('link', { name: title }).first().click();
  await expect(page.getByRole('heading', { name: title })).toBeVisible();
}

/** Saves a fee of the exhibition's first loan, in the list under it. */
async function changeFee(page: Page, fee: string): Promise<void> {
  await page.getByRole('region', { name: 'Loans' }).getByRole('row').getByRole('link').first().click();
  await page.getByRole('textbox', { name: 'Fee', exact: true }).fill(fee);
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText(/^Saved\./)).toContainText('Quoted fees of Painted Sails waits: on request');
  await page.goBack();
}

test('a value on request stays as it was, says as of when, and is worked out by the button or by its field', async ({
  page,
}) => {
  await openExhibition(page, 'Painted Sails');
  const quoted = field(page, 'Quoted fees');
  const value = quoted.getByRole('button', { name: /Open what it is made of$/ });
  const before = await value.textContent();

  await test.step('an edit of what is in it leaves it, and it says so', async () => {
    await changeFee(page, '1,234.50');
    await expect(quoted).toContainText(/as of \d+ \w+ \d{4}, \d\d:\d\d; something in it has changed since/);
    await expect(value).toHaveText(before!);
  });

  await test.step('opened, it shows what it would be', async () => {
    await value.click();
    await expect(page.getByRole('dialog')).toContainText(
      /The value is as of .* Of what stands below it would be [\d,.]+ GBP now/,
    );
    await page.keyboard.press('Escape');
  });

  await test.step('its rule tells how many wait', async () => {
    await quoted.getByRole('button', { name: /^Rule of Quoted fees/ }).click();
    const rule = await page.getByRole('tooltip').getByRole('link').getAttribute('href');
    await page.goto(rule!);
    // Other tests may have left fees of their own waiting.
    await expect(page.getByText(/^(1 value waits|\d+ values wait), since/)).toBeVisible();
    await page.goBack();
  });

  await test.step('the button works it out', async () => {
    await quoted.getByRole('button', { name: 'Work it out now' }).click();
    await expect(page.getByText('Quoted fees is up to date.')).toBeVisible();
    await expect(quoted).not.toContainText('as of');
    await expect(value).not.toHaveText(before!);
    await expect(page.getByRole('region', { name: 'History' })).toContainText('brought values up to date');
  });

  await test.step('so does its yes/no field, with the save', async () => {
    await changeFee(page, '2,000.00');
    await expect(quoted).toContainText('as of');
    await page.getByRole('combobox', { name: 'Quote the fees' }).click();
    await page.getByTitle('yes', { exact: true }).last().click();
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await expect(page.getByText(/^Saved\. It followed: Quoted fees/)).toBeVisible();
    await expect(quoted).not.toContainText('as of');
  });
});

test('soon after: the save doesn’t wait, and moments later the value follows by itself', async ({ page }) => {
  await page.goto('/w/wrenfield/records/artefact');
  const artefact = page.locator('.ant-table-row').first().getByRole('link').first();
  await artefact.click();
  await page.getByRole('textbox', { name: 'Maker' }).fill('Aaron of the Ferry');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText(/^Saved\./)).toContainText(/Makers of .* waits: soon after/);
  const way = page.getByRole('navigation', { name: 'Way here' });
  await way.getByRole('link').nth(-2).click();
  await expect(field(page, 'Makers')).toContainText('Aaron of the Ferry');
  await expect(field(page, 'Makers')).not.toContainText('as of');
});

test('a pace is chosen in the sentence by keyboard, and set times that aren’t times are found', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/rules/new');
  await choose(page, 'Type of record', 'Institution');
  await choose(page, 'Aggregate', /^count/);
  await choose(page, 'Records that are brought together', /^Loans out/);
  await choose(page, 'Field that is kept', /^Loan count/);
  const pace = page.getByRole('button', { name: /^Pace/ });
  await expect(pace).toHaveText('With the save');
  await pace.focus();
  await page.keyboard.press('Enter');
  await page.getByRole('radio', { name: 'with the save' }).focus();
  await page.keyboard.press('ArrowDown');
  await expect(pace).toHaveText('Soon after');
  await page.keyboard.press('ArrowDown');
  await expect(pace).toHaveText('Every day at 06:00');
  await page.getByRole('textbox', { name: 'Time of day' }).fill('25:00');
  await expect(page.getByText('Choose when: a time such as 06:00')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Save as draft' })).toBeDisabled();
  await page.getByRole('textbox', { name: 'Time of day' }).fill('18:30');
  await page.keyboard.press('Enter');
  await expect(pace).toHaveText('Every day at 18:30');
  await page.getByRole('button', { name: 'Save as draft' }).click();
  await expect(page).toHaveURL(/\/rules\/[0-9a-f-]{36}$/);
  await page.getByRole('button', { name: 'Take it live …' }).click();
  await page.getByRole('button', { name: /^Take it live and fill/ }).click();
  await expect(
    page.getByText(/All its values are up to date\. Its time comes round next on .* 18:30\./),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Pause' }).click();
});
