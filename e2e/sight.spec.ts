import { actAs } from './acting';
import { api, records } from './records';
import { expect, type Page, test } from './test';

const dialog = (page: Page) => page.getByRole('dialog');

/** Presses beside what is open over the dialog, which closes it; Escape would close the dialog where it is closed already. */
const besides = (page: Page) => dialog(page).getByText('What Reader sees', { exact: true }).click();

/** Chooses in a list of a dialog. */
async function pick(page: Page, label: string, option: string): Promise<void> {
  await page.getByRole('combobox', { name: label }).click();
  await page.locator(`.ant-select-item-option[title="${option}"]`).last().click();
}

test('a role sees its own loans without their fees: in lists, search and opened values; all else is closed to it', async ({
  page,
}) => {
  // Other tests may have moved loans: what is the reader's own is asked before.
  const { people } = (await (await page.request.get(`${api}/people`)).json()) as {
    people: { id: string; name: string }[];
  };
  const reader = people.find(({ name }) => name === 'Callum Reyes')!.id;
  const loans = await records(page, 'loan');
  const own = loans.filter(({ values }) => values.coordinator === reader);
  expect(own.length).toBeGreaterThan(0);
  expect(own.length).toBeLessThan(loans.length);
  // An institution in whose total something counts that isn't the reader's.
  const ids = new Set(own.map(({ id }) => id));
  let lender = '';
  for (const { id, values } of await records(page, 'institution')) {
    const opened = await page.request.get(`${api}/records/institution/${id}/explanations/lentTotal`);
    if (!opened.ok()) continue;
    const { members } = (await opened.json()) as {
      members: { type: string; id: string; standing: string }[];
    };
    if (members.some((one) => one.type === 'loan' && one.standing === 'counts' && !ids.has(one.id)))
      lender = String(values.name ?? values.title);
    if (lender !== '') break;
  }
  expect(lender).not.toBe('');

  await test.step('an administrator says what a reader sees', async () => {
    await page.goto('/w/wrenfield/settings');
    await page.getByRole('button', { name: 'What Reader sees …' }).click();
    await dialog(page).getByRole('button', { name: 'Which Loans, by a condition: no condition' }).click();
    await page.getByRole('button', { name: /^Add a test on/ }).click();
    await page.keyboard.type('coordinator');
    await page.keyboard.press('Enter');
    await page.getByRole('checkbox', { name: 'or me' }).click();
    await page.getByRole('button', { name: 'Done' }).click();
    await besides(page);
    await expect(
      dialog(page).getByRole('button', { name: 'Which Loans, by a condition: where Coordinator is me' }),
    ).toBeVisible();
    await dialog(page).getByRole('checkbox', { name: 'May see Rates' }).click();
    await dialog(page)
      .getByRole('button', { name: /^Fields of Loans/ })
      .click();
    await pick(page, 'Fee of Loans', 'hidden');
    await besides(page);
    await expect(dialog(page).getByRole('button', { name: 'Fields of Loans: 1 hidden' })).toBeVisible();
    await dialog(page).getByRole('button', { name: 'Save it' }).click();
    await expect(page.getByText('Whoever is Reader sees that from now on')).toBeVisible();
    await expect(page.getByRole('button', { name: 'What Reader sees …' })).toHaveText('a part …');
  });

  await test.step('a reader sees that, and no other place', async () => {
    await actAs(page, 'Callum Reyes');
    await expect(page.getByRole('navigation', { name: 'Places' }).getByRole('link')).toHaveText([
      ...[/Oikon/, /Wrenfield Touring/, /^Today/, 'Records', 'Settings'],
    ]);
    await page.goto('/w/wrenfield/today');
    await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible();
    await expect(page.getByText(/^Nothing waits$|proposals? waits? for approval/).first()).toBeVisible();
    await page.getByText('Messages', { exact: true }).click();
    await page.waitForLoadState('networkidle');
    await expect(page.locator('[role="alert"]:not(#__next-route-announcer__)')).toHaveCount(0);
    await page.goto('/w/wrenfield/rules');
    await expect(page.getByRole('heading', { name: 'This place shows all of the workspace' })).toBeVisible();
    await page.goto('/w/wrenfield/records/loan');
    await expect(page.getByText(`${own.length} in all`, { exact: true })).toBeVisible();
    await expect(page.getByRole('columnheader', { name: 'Fee' })).toHaveCount(0);
    await page
      .getByRole('link', { name: String(own[0]!.values.title), exact: true })
      .first()
      .click();
    await expect(page.getByRole('form', { name: 'Fields' })).toBeVisible();
    await expect(page.getByRole('textbox', { name: 'Fee' })).toHaveCount(0);
    await page.waitForLoadState('networkidle');
    await expect(page.locator('[role="alert"]:not(#__next-route-announcer__)')).toHaveCount(0);
  });

  await test.step('a kept value is seen whole; opened it shows hers, and the rest together', async () => {
    await page.goto('/w/wrenfield/records/institution');
    await page.getByPlaceholder('Search institutions').fill(lender);
    await page.getByRole('link', { name: lender, exact: true }).first().click();
    await page
      .getByRole('button', { name: /^Lent total.*Open/ })
      .first()
      .click();
    await expect(
      page.getByText(/records that you may not see: .* GBP|and others that you may not see/),
    ).toBeVisible();
  });

  await test.step('who administers looks at it as a reader does, and saves nothing meanwhile', async () => {
    await page.goto('/w/wrenfield/settings');
    await actAs(page, 'Ines Valcourt');
    await page.getByRole('button', { name: 'See it as Reader' }).click();
    await expect(page.getByText('You see this workspace as Reader does')).toBeVisible();
    await page.goto('/w/wrenfield/records/loan');
    await expect(page.getByRole('columnheader', { name: 'Title' })).toBeVisible();
    await expect(page.getByRole('columnheader', { name: 'Fee' })).toHaveCount(0);
    await expect(page.getByRole('button', { name: 'Add a loan' })).toBeDisabled();
    await page.getByRole('button', { name: 'See all again' }).click();
    await expect(page.getByRole('heading', { name: 'Settings' })).toBeVisible();
  });

  await test.step('and all again', async () => {
    await page.getByRole('button', { name: 'What Reader sees …' }).click();
    await dialog(page)
      .getByRole('button', { name: 'Which Loans, by a condition: where Coordinator is me' })
      .click();
    await page.getByRole('button', { name: 'Remove the test on Coordinator' }).click();
    await besides(page);
    await dialog(page).getByRole('checkbox', { name: 'May see Rates' }).click();
    await dialog(page)
      .getByRole('button', { name: /^Fields of Loans/ })
      .click();
    await pick(page, 'Fee of Loans', 'may change');
    await besides(page);
    await dialog(page).getByRole('button', { name: 'Save it' }).click();
    await expect(page.getByRole('button', { name: 'What Reader sees …' })).toHaveText('all …');
  });
});
