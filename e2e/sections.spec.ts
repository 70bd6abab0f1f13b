import { expect, type Page, test } from './test';

const dialog = (page: Page) => page.getByRole('dialog');

async function arrange(page: Page): Promise<void> {
  await page.goto('/w/wrenfield/model');
  await page.getByTestId('type-on-map').filter({ hasText: 'Loan' }).first().click();
  await page.getByRole('button', { name: 'Arrange its page …' }).click();
}

test('a record’s page is arranged in sections, one of which appears by a condition', async ({ page }) => {
  await test.step('on the model', async () => {
    await arrange(page);
    await page.getByRole('button', { name: 'Add a section' }).click();
    const section = dialog(page).getByRole('group', { name: /^Section/ });
    await section.getByRole('textbox', { name: 'Name of the section' }).fill('Going home');
    await section.getByRole('combobox', { name: /^Fields of/ }).fill('Due back');
    await page.getByTitle('Due back', { exact: true }).click();
    await section.getByRole('textbox', { name: 'Name of the section' }).click();
    await section.getByRole('button', { name: /^Add a test on/ }).click();
    await page.getByRole('menuitem', { name: 'Stage', exact: true }).click();
    await section.getByRole('button', { name: /^Compared with/ }).click();
    await page.getByRole('menuitem', { name: 'Agreed' }).click();
    await expect(dialog(page)).toContainText('Nothing that is stored changes, and no rule');
    await dialog(page).getByRole('button', { name: 'Arrange it so' }).click();
    await expect(dialog(page)).toHaveCount(0);
  });

  await test.step('on a loan, as its stage is entered', async () => {
    await page.goto('/w/wrenfield/records/loan');
    await page.locator('.ant-table-row', { hasText: 'Agreed' }).first().getByRole('link').click();
    const section = page.getByRole('group', { name: 'Going home' });
    await expect(section.getByRole('textbox', { name: 'Due back' })).toBeVisible();
    await page.getByRole('combobox', { name: 'Stage' }).click();
    await page.getByTitle('Requested', { exact: true }).last().click();
    await expect(section).toHaveCount(0);
    await page.getByRole('button', { name: 'Give up changes' }).click();
    await expect(section).toBeVisible();
  });

  await test.step('as it was before, for those who come after', async () => {
    await arrange(page);
    await dialog(page).getByRole('button', { name: 'Remove Going home' }).click();
    await dialog(page).getByRole('button', { name: 'Arrange it so' }).click();
    await expect(dialog(page)).toHaveCount(0);
  });
});
