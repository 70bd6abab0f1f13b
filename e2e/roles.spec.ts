import { actAs } from './acting';
import { expect, type Page, test } from './test';

/** Why a press isn't for who acts, as it says itself. */
const whyNot = async (page: Page, name: string | RegExp, role: string): Promise<void> => {
  const press = page.getByRole('button', { name }).first();
  await expect(press).toBeDisabled();
  await expect(press).toHaveAttribute('title', new RegExp(`you are here as ${role}`));
};

const LOAN = 'Orrery House, weavers’ tools';

async function openLoan(page: Page): Promise<void> {
  await page.goto('/w/wrenfield/records/loan');
  await page.getByPlaceholder('Search loans').fill(LOAN);
  await page.getByRole('link', { name: LOAN }).click();
  await expect(page.getByRole('form', { name: 'Fields' })).toBeVisible();
}

test('a reader looks and takes out, an editor edits too, a rule writer writes rules too: each is told why not, where they may not', async ({
  page,
}) => {
  await test.step('a reader', async () => {
    await page.goto('/w/wrenfield/today');
    await actAs(page, 'Callum Reyes');
    await whyNot(page, /^Approve/, 'Reader');
    await openLoan(page);
    await whyNot(page, 'Save', 'Reader');
    await whyNot(page, 'Delete …', 'Reader');
    await page.goto('/w/wrenfield/rules');
    await whyNot(page, 'Write a rule', 'Reader');
    await page.goto('/w/wrenfield/requests');
    await whyNot(page, 'Write a request down', 'Reader');
    await page.goto('/w/wrenfield/model');
    for (const name of ['Add a field', /^Change Name/, 'Remove …', 'Add a type'])
      await whyNot(page, name, 'Reader');
    await expect(page.getByRole('button', { name: 'Where it is used …' }).first()).toBeEnabled();
    await page.goto('/w/wrenfield/records/loan');
    const file = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Export' }).click();
    await page.getByRole('menuitem', { name: 'Every field as CSV' }).click();
    await file;
  });

  await test.step('an editor', async () => {
    await page.goto('/w/wrenfield/today');
    await actAs(page, 'Tobias Lindqvist');
    await openLoan(page);
    await page.getByRole('textbox', { name: 'Climate requirement' }).fill('20 °C');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await expect(page.getByText(/^Saved/).first()).toBeVisible();
    await page.goto('/w/wrenfield/records/loan');
    await whyNot(page, 'Import a file', 'Editor');
    await page.goto('/w/wrenfield/rules');
    await whyNot(page, 'Write a rule', 'Editor');
  });

  await test.step('a rule writer', async () => {
    await page.goto('/w/wrenfield/rules');
    await actAs(page, 'Priya Ramanathan');
    await page
      .getByRole('link', { name: /Agreed total/ })
      .first()
      .click();
    await whyNot(page, 'Pause', 'Rule writer');
    await page
      .getByRole('textbox', { name: 'Note: who asked for it, and why' })
      .fill('Asked for by the insurer.');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await expect(page.getByText(/^Saved/).first()).toBeVisible();
    await page.goto('/w/wrenfield/rules');
    await expect(page.getByRole('link', { name: 'Write a rule' })).toBeVisible();
    await page.goto('/w/wrenfield/model');
    await whyNot(page, 'Add a type', 'Rule writer');
  });
});
