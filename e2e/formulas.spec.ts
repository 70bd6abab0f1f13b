import { expect, type Page, test } from './test';
import { choose } from './sentence';

const example = (page: Page) => page.getByRole('region', { name: 'Worked example' });
const expression = (page: Page) => page.getByRole('textbox', { name: 'Expression' });

test('a formula is written by keyboard, with what it can name, what is wrong and what it comes to; then it keeps its field', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/rules/new');
  await page.getByText('Formula', { exact: true }).click();
  await choose(page, 'Type of record', 'Loan');

  await test.step('the editor proposes what there is at each place, with its kind', async () => {
    await expression(page).click();
    await page.keyboard.type('insuredValue * 0.02 + sum(artefacts.agreed');
    await expect(page.getByRole('option', { name: /agreedValue.*money/ })).toBeVisible();
    await page.keyboard.press('Enter');
    await expect(expression(page)).toContainText('artefacts.agreedValue');
  });

  await test.step('a mistake is marked at its place, with the nearest name', async () => {
    await page.keyboard.press('Control+A');
    await page.keyboard.type('insuredVale * 0.02');
    await expect(page.getByText('Did you mean “insuredValue”?')).toBeVisible();
    await expect(page.locator('.cm-lintRange-error')).toHaveText('insuredVale');
    await page.keyboard.press('Control+A');
    await page.keyboard.type(
      'if stage = "declined" then null else exchange(insuredValue, "GBP", today()) / 100',
    );
    await expect(page.getByText('It gives money in GBP.')).toBeVisible();
  });

  await test.step('only fields that take it can be chosen, the others say why; the pieces stand beside it with their values', async () => {
    await page.getByRole('button', { name: /^Field that is kept/ }).click();
    const unfit = page.getByRole('menuitem', { name: /^Due back · date; the result is money in GBP/ });
    await expect(unfit).toHaveAttribute('aria-disabled', 'true');
    await page.getByRole('menuitem', { name: /^Fee/ }).click();
    await example(page).getByRole('combobox', { name: 'Sample Loan' }).click();
    await page.keyboard.type('orreries');
    await page.getByTitle('Aldermoor Maritime House, orreries', { exact: true }).click();
    await expect(example(page).getByRole('row', { name: /^insuredValue 1/ })).toContainText('104,250.00 GBP');
    await expect(example(page).getByRole('status')).toContainText('1,042.50 GBP');
    await expect(example(page).getByRole('status')).toContainText('Would change');
  });

  await test.step('it is taken live, and its field opens into the same pieces', async () => {
    await page.getByRole('button', { name: 'Save as draft' }).click();
    await expect(page).toHaveURL(/\/rules\/[0-9a-f-]{36}$/);
    await page.getByRole('button', { name: 'Take it live …' }).click();
    // Proofs of the rule that adds fees up enter them by hand, which nobody can any more.
    await expect(page.getByRole('dialog')).toContainText(/Fee is kept by the rule/);
    await page
      .getByRole('dialog')
      .getByRole('textbox', { name: 'Why it should go live all the same' })
      .fill('Fees follow the insured value now');
    await page
      .getByRole('dialog')
      .getByRole('button', { name: /^Take it live/ })
      .click();
    await expect(page.locator('header').getByText('Live', { exact: true })).toBeVisible();
    const found = await page.request.get('/api/v1/workspaces/wrenfield/records/loan?search=orreries&limit=1');
    const { records } = (await found.json()) as {
      records: { id: string; values: Record<string, unknown> }[];
    };
    expect(records[0]!.values.fee).toEqual({ amount: '1042.50', currency: 'GBP' });
  });

  await test.step('it is paused again', async () => {
    await page.getByRole('button', { name: 'Pause' }).click();
    await expect(page.locator('header').getByText('Paused')).toBeVisible();
  });
});

test('a roll-up goes all the way down a hierarchy: its own value adds, the tree stands beside it', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/rules');
  await page.getByRole('listitem').filter({ hasText: 'Declared cover stands in' }).getByRole('link').click();
  const worked = example(page);
  await expect(worked.getByRole('row', { name: /^Own cover/ })).toContainText('is added');
  await expect(worked.getByRole('row', { name: /^Declared cover/ })).toContainText('not entered');
  await expect(worked.getByText('All the way down')).toBeVisible();

  await test.step('further records are added to the sentence and left out again', async () => {
    await choose(page, 'Add to the sentence', /^further records/);
    const added = page.getByRole('button', {
      name: /^Records that are brought together: records beneath it/,
    });
    await expect(added).toBeVisible();
    await added.click();
    await page.getByRole('menuitem', { name: 'leave these out' }).click();
    await expect(added).toHaveCount(0);
  });

  await test.step('over a bridge each end counts once, or every way', async () => {
    await page.goto('/w/wrenfield/rules');
    await page.getByRole('listitem').filter({ hasText: 'keep Needs permit' }).getByRole('link').click();
    await expect(page.getByRole('button', { name: /Materials of its Material uses/ })).toBeVisible();
    await choose(page, 'What is reached on several ways', /^every way/);
    await expect(
      page.getByRole('button', { name: 'What is reached on several ways: every way' }),
    ).toBeVisible();
  });
});

test('a condition turns from tests into text and back', async ({ page }) => {
  await page.goto('/w/wrenfield/rules');
  await page.getByRole('listitem').filter({ hasText: 'keep Last due back' }).getByRole('link').click();
  await page.getByRole('button', { name: 'as text' }).click();
  const part = page.getByRole('button', { name: /^A test written as text/ });
  await expect(part).toHaveText('stage = "agreed"');
  await part.click();
  await page.getByRole('button', { name: 'Show as tests' }).click();
  await expect(page.getByRole('button', { name: /^Compared with: Agreed/ })).toBeVisible();
});
