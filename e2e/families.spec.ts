import { expect, type Page, test } from './test';

const dialog = (page: Page) => page.getByRole('dialog');
const families = (page: Page) => page.getByRole('button', { name: /^(Families|Kept: )/ });

test('families are kept on the bench: from the data, one for each option, and written by hand', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/bench?type=exhibition');
  await test.step('a copy of the data, with what it is for', async () => {
    await expect(page.getByRole('heading', { level: 2 }).first()).toBeVisible();
    await families(page).click();
    await page.getByRole('menuitem', { name: 'Keep this family …' }).click();
    await dialog(page).getByRole('textbox', { name: 'Name', exact: true }).fill('One with declined loans');
    await dialog(page)
      .getByRole('textbox', { name: 'What it is for' })
      .fill('Declined loans must not count.');
    await dialog(page).getByRole('button', { name: 'Keep it' }).click();
    await expect(page).toHaveURL(/kept=/);
    await expect(page.getByRole('note', { name: 'This family' })).toContainText(
      'Declined loans must not count. The data is still the same.',
    );
  });

  await test.step('one exhibition for each stage', async () => {
    await families(page).click();
    await page.getByRole('menuitem', { name: 'Keep one for each …' }).click();
    await dialog(page).getByRole('button', { name: 'Keep them' }).click();
    await expect(dialog(page)).toHaveCount(0);
    await families(page).click();
    await expect(page.getByRole('menuitem', { name: /^Exhibition Open/ })).toBeVisible();
    await page.keyboard.press('Escape');
  });

  await test.step('one by hand grows on the bench, and is kept as it stands', async () => {
    await families(page).click();
    await page.getByRole('menuitem', { name: 'Write one by hand …' }).click();
    await dialog(page).getByRole('textbox', { name: 'Name', exact: true }).fill('By hand');
    await dialog(page).getByRole('button', { name: 'Begin' }).click();
    await expect(page.getByRole('heading', { name: /Exhibition by hand/ })).toBeVisible();
    await page
      .getByRole('button', { name: /^Add .*loan/i })
      .first()
      .click();
    await expect(page.getByRole('region', { name: 'You changed' })).toContainText('New loan 1');
    await page.getByRole('button', { name: 'Keep …' }).click();
    await page.getByRole('menuitem', { name: 'The family as it stands …' }).click();
    await dialog(page).getByRole('textbox', { name: 'Name', exact: true }).fill('By hand, with a loan');
    await dialog(page).getByRole('button', { name: 'Keep it' }).click();
    await expect(families(page)).toHaveText('Kept: By hand, with a loan');
    await page.reload();
    await expect(page.getByRole('region', { name: 'Family' })).toContainText('New loan 1');
    await expect(page.getByRole('note', { name: 'This family' })).toContainText(
      '2 records are otherwise in the data by now',
    );
  });

  await test.step('a kept family is the worked example beside a rule', async () => {
    await page.goto('/w/wrenfield/rules');
    await page
      .getByRole('region', { name: 'Rules on Exhibitions' })
      .getByRole('listitem')
      .filter({ hasText: 'Artefact count' })
      .getByRole('link')
      .click();
    const worked = page.getByRole('region', { name: 'Worked example' });
    await expect(worked.getByRole('status')).toContainText('Artefact count by this rule');
    await worked.getByRole('combobox', { name: 'Where the sample is from' }).click();
    await page.getByTitle('By hand, with a loan').click();
    await expect(worked.getByRole('combobox', { name: /^Sample/ })).toHaveCount(0);
    await expect(worked.getByRole('table')).toContainText('New loan 1');
    await page.goto('/w/wrenfield/bench?type=exhibition');
    await families(page).click();
    await page.getByRole('menuitem', { name: 'By hand, with a loan' }).click();
    await expect(families(page)).toHaveText('Kept: By hand, with a loan');
  });

  await test.step('and is removed', async () => {
    await families(page).click();
    await page.getByRole('menuitem', { name: 'Remove “By hand, with a loan” …' }).click();
    await dialog(page).getByRole('button', { name: 'Remove it' }).click();
    await expect(families(page)).toHaveText('Families');
  });
});
