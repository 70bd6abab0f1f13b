import { expect, type Page, test } from './test';
import { choose } from './sentence';

const family = (page: Page) => page.getByRole('region', { name: 'Worked example' });
const EXHIBITION = 'Rivers of Silk';
const LOAN = 'Aldermoor Museums Trust, pattern books';
const DECLINED = 'Calder Vale Museum, printing blocks';

test('an administrator writes a roll-up, sees it worked out, tries it, takes it live, relies on it, and pauses it', async ({
  page,
}) => {
  await test.step('the demo’s rules stand there as sentences, with their state', async () => {
    await page.goto('/');
    await expect(page.getByRole('region', { name: 'Also at hand' })).toBeVisible();
    await page.getByRole('link', { name: 'Rules', exact: true }).click();
    const rules = page.getByRole('region', { name: 'Rules on Loans' });
    await expect(
      rules
        .getByRole('listitem')
        .filter({ hasText: 'keep Artefact count equal to the count of its Artefacts' }),
    ).toContainText('Live');
    await expect(
      page
        .getByRole('region', { name: 'Rules on Exhibitions' })
        .getByRole('listitem')
        .filter({ hasText: 'Average fee' }),
    ).toContainText('Paused');
  });

  await test.step('a new rule is written in place; each part offers only what fits', async () => {
    await page.getByRole('link', { name: 'Write a rule' }).click();
    await choose(page, 'Type of record', 'Exhibition');
    await choose(page, 'Aggregate', /^sum/);
    await choose(page, 'Records that are brought together', /^Loans/);

    await page.getByRole('button', { name: /^Value that is brought together/ }).click();
    await expect(page.getByRole('menuitem', { name: /Insured value/ })).toBeVisible();
    const due = page.getByRole('menuitem', { name: /^Due back · date: not for sum/ });
    await expect(due).toHaveAttribute('aria-disabled', 'true');
    await page.getByRole('menuitem', { name: /Insured value/ }).click();

    await page.getByRole('button', { name: /^Field that is kept/ }).click();
    const kept = page.getByRole('menuitem', {
      name: /^Artefact count · kept by “Artefact count of exhibitions”/,
    });
    await expect(kept).toHaveAttribute('aria-disabled', 'true');
    await page.getByRole('menuitem', { name: /Insured total/ }).click();
  });

  await test.step('beside it a sample family is worked out again at every change', async () => {
    const example = family(page);
    await example.getByRole('combobox', { name: 'Sample Exhibition' }).click();
    await page.getByTitle(EXHIBITION, { exact: true }).last().click();
    const row = example.getByRole('row', { name: new RegExp(DECLINED) });
    await expect(row).toContainText('counts');
    await choose(page, 'Add a test on', 'Stage');
    await choose(page, 'Compared with', 'Agreed');
    await expect(row).toContainText('left out');
    await expect(row).toContainText('fails “Stage is Agreed”: here Declined');
    await expect(example.getByRole('row', { name: new RegExp(LOAN) })).toContainText('151,700.00 GBP');
    await expect(example.getByRole('status')).toContainText('Would change');
  });

  const total = await family(page).getByTestId('worked-result').innerText();

  await test.step('it is saved as a draft: nothing changes', async () => {
    await page.getByRole('button', { name: 'Save as draft' }).click();
    await expect(page).toHaveURL(/\/rules\/[0-9a-f-]{36}$/);
    await expect(page.locator('header').getByText('Draft')).toBeVisible();
  });
  const rule = page.url();

  await test.step('on the bench a loan’s value and stage are changed, and the ripple stands beside it', async () => {
    await page.getByRole('link', { name: 'Try on the bench' }).click();
    await page.getByRole('combobox', { name: 'Sample family' }).click();
    await page.getByTitle(EXHIBITION, { exact: true }).last().click();
    await expect(page.getByRole('heading', { name: new RegExp(`^${EXHIBITION}`) })).toBeVisible();
    const ripple = page.getByRole('region', { name: 'Ripple' });
    await expect(ripple.getByRole('region', { name: 'Taking the drafts live' })).toContainText(
      'Insured total',
    );

    await page.getByRole('button', { name: `Stage of ${DECLINED}: Declined. Edit` }).click();
    await page.getByTitle('Agreed', { exact: true }).last().click();
    await page.getByRole('button', { name: new RegExp(`^Insured value of ${DECLINED}`) }).click();
    const entry = page.getByRole('textbox', { name: `Insured value of ${DECLINED}` });
    await entry.fill('much');
    await entry.press('Enter');
    await expect(
      page.getByRole('alert').filter({ hasText: 'Expected a number with at most 2 decimal places' }),
    ).toBeVisible();
    await entry.fill('1,000.50');
    await entry.press('Enter');

    const wave = ripple.getByRole('region', { name: /^First wave/ });
    const change = wave.getByRole('listitem').filter({ hasText: 'Insured total' });
    await expect(change).toContainText(`before: ${total}`);
    await expect(change).toContainText(`because of Insured value of ${DECLINED}; Stage of ${DECLINED}`);
    await change.hover();
    await expect(page.locator('[data-cell=marked]')).toHaveCount(3); // the total, and the two cells that it came from

    await ripple.getByRole('button', { name: 'Undo' }).click();
    await expect(ripple.getByRole('region', { name: 'You changed' }).getByRole('listitem')).toHaveCount(1);
    await page.reload();
    await expect(page.getByRole('button', { name: `Stage of ${DECLINED}: Declined. Edit` })).toBeVisible();
  });

  await test.step('taking it live first tells what would change, then fills all of it', async () => {
    await page.goto(rule);
    await page.getByRole('button', { name: 'Take it live …' }).click();
    const dialog = page.getByRole('dialog');
    await expect(dialog).toContainText('6 of 6 Exhibitions would change in Insured total');
    await expect(dialog.getByRole('row', { name: new RegExp(EXHIBITION) })).toContainText(total);
    await dialog.getByRole('button', { name: 'Take it live and fill 6 Exhibitions' }).click();
    await expect(page.getByText('Live. 6 Exhibitions changed.')).toBeVisible();
    await expect(page.locator('header').getByText('Live', { exact: true })).toBeVisible();
  });

  await test.step('in Records a loan is edited: the exhibition’s total is right at once', async () => {
    await page.getByRole('link', { name: 'Records', exact: true }).click();
    await page.getByRole('combobox', { name: 'Type of record' }).click();
    await page.locator('.ant-select-dropdown').getByTitle('Loans', { exact: true }).click();
    await page.getByPlaceholder('Search loans').fill('pattern books');
    await page.getByRole('link', { name: LOAN }).click();
    await page.getByRole('textbox', { name: 'Insured value' }).fill('151,800.25');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await expect(page.getByText(/^Saved\. It followed: .* is now .* GBP, and 1 more\.$/)).toBeVisible();
    await expect(page.getByRole('region', { name: 'History' })).toContainText('151,800.25 GBP');
  });

  await test.step('the kept field is read-only, names its rule, and opens into what is in it', async () => {
    await page.getByRole('link', { name: 'Records', exact: true }).click();
    await page.getByRole('combobox', { name: 'Type of record' }).click();
    await page.locator('.ant-select-dropdown').getByTitle('Exhibitions', { exact: true }).click();
    await page.getByRole('link', { name: EXHIBITION }).click();
    const form = page.getByRole('form', { name: 'Fields' });
    await expect(form.getByRole('textbox', { name: 'Insured total' })).toHaveCount(0);
    await form.getByRole('button', { name: 'Rule of Insured total: “Insured total” keeps this.' }).click();
    await expect(page.getByRole('tooltip').getByRole('link', { name: 'Insured total' })).toBeFocused();
    await page.keyboard.press('Escape');
    const history = page.getByRole('region', { name: 'History' });
    await expect(history.getByRole('listitem').filter({ hasText: 'saved' }).first()).toContainText(
      `because of Insured value of ${LOAN}`,
    );
    await form.getByRole('button', { name: /^Insured total: .* Open what it is made of/ }).click();
    const opened = page.getByRole('dialog');
    await expect(opened.getByRole('row', { name: new RegExp(LOAN) })).toContainText('151,800.25 GBP');
    await expect(opened.getByRole('row', { name: new RegExp(DECLINED) })).toContainText(
      'fails “Stage is Agreed”: here Declined',
    );
    // What counts adds up, on screen, to the value.
    const amounts = await opened.locator('tr[data-standing="counts"] td.amount').allInnerTexts();
    const pence = amounts.reduce(
      // Beneath an exchanged amount stands what it was.
      (sum, text) => sum + Math.round(Number(text.split('\n')[0]!.replace(/[^0-9.]/g, '')) * 100),
      0,
    );
    expect(await opened.locator('tfoot td.amount').innerText()).toBe(
      `${(pence / 100).toLocaleString('en-GB', { minimumFractionDigits: 2 })} GBP`,
    );
    await page.keyboard.press('Escape');
  });

  await test.step('paused, the field says so and can be edited', async () => {
    await page.goto(rule);
    await page.getByRole('button', { name: 'Pause' }).click();
    await expect(page.locator('header').getByText('Paused')).toBeVisible();
    await page.goto('/w/wrenfield/records/exhibition');
    await page.getByRole('link', { name: EXHIBITION }).click();
    await expect(page.getByText(/“Insured total” is paused: this value stands still\./)).toBeVisible();
    await expect(page.getByRole('textbox', { name: 'Insured total' })).toBeEditable();
  });
});
