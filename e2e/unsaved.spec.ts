import { choose } from './sentence';
import { expect, type Page, test } from './test';

/** What is written and not saved is never lost without a question. */

const LOAN = 'Orrery House, weavers’ tools';

async function changeLoan(page: Page): Promise<void> {
  await page.goto('/w/wrenfield/records/loan');
  await page.getByPlaceholder('Search loans').fill(LOAN);
  await page.getByRole('link', { name: LOAN }).click();
  await page.getByRole('textbox', { name: 'Climate requirement' }).fill('As it was written');
}

const question = (page: Page) => page.getByRole('dialog', { name: 'Leave without saving?' });
const stay = async (page: Page) => {
  await expect(question(page)).toContainText('Changes of Climate requirement aren’t saved.');
  await question(page).getByRole('button', { name: 'Stay' }).click();
  await expect(question(page)).toBeHidden();
  await expect(page.getByRole('textbox', { name: 'Climate requirement' })).toHaveValue('As it was written');
};

test('a changed record isn’t left by a link, by going back or by a search without a question', async ({
  page,
}) => {
  await changeLoan(page);
  const at = page.url();
  await page.getByRole('link', { name: 'Rules', exact: true }).click();
  await stay(page);
  await page.evaluate(() => history.back());
  await stay(page);
  expect(page.url()).toBe(at);
  await page.keyboard.press('Control+k');
  await page.getByRole('combobox', { name: /^Search/ }).fill('Rivers of Silk');
  await page
    .getByRole('option', { name: /Rivers of Silk/ })
    .first()
    .click();
  await stay(page);
  await page.evaluate(() => history.back());
  await question(page).getByRole('button', { name: 'Leave' }).click();
  await expect(page).toHaveURL(/records\/loan$/);
  // Nothing is held any more.
  await page.getByRole('link', { name: 'Rules', exact: true }).click();
  await expect(page).toHaveURL(/\/rules$/);
});

test('nor by a reload, and a saved one is left freely', async ({ page }) => {
  await changeLoan(page);
  let asked = 0;
  page.on('dialog', (dialog) => {
    asked += dialog.type() === 'beforeunload' ? 1 : 0;
    void dialog.dismiss();
  });
  await page.reload({ timeout: 3_000 }).catch(() => undefined);
  await expect(() => expect(asked).toBe(1)).toPass();
  await expect(page.getByRole('textbox', { name: 'Climate requirement' })).toHaveValue('As it was written');
  await page.getByRole('button', { name: 'Give up changes' }).click();
  await page.getByRole('link', { name: 'Rules', exact: true }).click();
  await expect(page).toHaveURL(/\/rules$/);
});

test('a request that is being written isn’t lost by Escape', async ({ page }) => {
  await page.goto('/w/wrenfield/requests');
  await page
    .getByRole('button', { name: /Write a request down|Write one down|Add a request/ })
    .first()
    .click();
  const dialog = page.getByRole('dialog', { name: 'Write a request down' });
  await dialog.getByRole('textbox', { name: 'Name' }).fill('Totals by hall');
  await page.keyboard.press('Escape');
  const asked = page.getByRole('dialog', { name: 'Give up what you entered?' });
  await asked.getByRole('button', { name: 'Go on with it' }).click();
  await expect(dialog.getByRole('textbox', { name: 'Name' })).toHaveValue('Totals by hall');
  await page.keyboard.press('Escape');
  await asked.getByRole('button', { name: 'Give it up' }).click();
  await expect(dialog).toBeHidden();
});

test('a rule that was begun is offered again, and what was written of another kind stays', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/rules/new');
  await page.getByRole('textbox', { name: 'Name' }).fill('Half a rule');
  await page.getByText('Formula', { exact: true }).click();
  await expect(page.getByRole('textbox', { name: 'Name' })).toHaveValue('Half a rule');
  await page.getByRole('link', { name: 'Model', exact: true }).click();
  await page.goto('/w/wrenfield/rules/new');
  await expect(page.getByText(/^“Half a rule”, begun on .*, isn’t saved\./)).toBeVisible();
  await page.getByRole('button', { name: 'Go on with it' }).click();
  await expect(page.getByRole('textbox', { name: 'Name' })).toHaveValue('Half a rule');
  await expect(page.getByText('Fills a field from an expression.')).toBeVisible();
  await page.reload();
  await page.getByRole('button', { name: 'Forget it' }).click();
  await page.reload();
  await expect(page.getByText('Fills a field from the records beneath.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Forget it' })).toBeHidden();
});

test('a rule that isn’t whole is kept unfinished, and gone on with by somebody else', async ({
  page,
  browser,
}) => {
  await page.goto('/w/wrenfield/rules/new');
  await choose(page, 'Type of record', 'Exhibition');
  await choose(page, 'Aggregate', /^count/);
  await page.getByRole('textbox', { name: 'Name' }).fill('Half a rule');
  await page.getByRole('button', { name: 'Keep it unfinished' }).click();
  await expect(page.getByText('Kept unfinished.')).toBeVisible();

  const other = await (await browser.newContext()).newPage();
  await other.goto('/w/wrenfield/rules');
  await other
    .getByRole('region', { name: 'Unfinished rules' })
    .getByRole('link', { name: 'Half a rule' })
    .click();
  await other.getByRole('button', { name: 'Go on with it' }).click();
  await expect(other.getByLabel('Sentence of the rule')).toContainText('equal to the count of');
  await choose(other, 'Records that are brought', /^Loans/);
  await choose(other, 'Field that is kept', 'a new field …');
  const dialog = other.getByRole('dialog');
  await dialog.getByRole('textbox', { name: 'Name', exact: true }).fill('Half a count');
  await dialog.getByRole('button', { name: 'Add the field' }).click();
  await other.getByRole('button', { name: 'Save as draft' }).click();
  await expect(other.getByRole('button', { name: 'Take it live …' })).toBeVisible();
  await other.goto('/w/wrenfield/rules');
  await expect(other.getByText('Half a rule')).toBeVisible();
  await expect(other.getByRole('region', { name: 'Unfinished rules' })).toHaveCount(0);
  await other.context().close();
});
