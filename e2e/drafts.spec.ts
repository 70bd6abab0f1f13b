import { expect, type Page, test } from './test';

const save = (page: Page) => page.getByRole('button', { name: 'Save', exact: true });
const takeLive = (page: Page) => page.getByRole('button', { name: 'Take it live …' });

async function compareWith(page: Page, option: string): Promise<void> {
  await page.getByRole('button', { name: /^Compared with/ }).click();
  await page.getByRole('menuitem', { name: option, exact: true }).click();
}

test('a draft that was changed and saved can be taken live at once; what was changed back isn’t a change', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/rules');
  await page.getByRole('listitem').filter({ hasText: 'keep Last due back' }).getByRole('link').click();
  await expect(save(page)).toBeDisabled();
  await expect(takeLive(page)).toBeEnabled();
  for (const option of ['Returned', 'Agreed']) {
    await compareWith(page, option);
    await expect(save(page)).toBeEnabled();
    await expect(takeLive(page)).toBeDisabled();
    await save(page).click();
    await expect(save(page)).toBeDisabled();
    await expect(takeLive(page)).toBeEnabled();
  }
  await compareWith(page, 'Returned');
  await expect(save(page)).toBeEnabled();
  await compareWith(page, 'Agreed');
  await expect(save(page)).toBeDisabled();
});
