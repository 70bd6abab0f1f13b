import { expect, type Page, test } from './test';
import { api, headers as asPerson } from './records';

const EXHIBITION = 'Instruments of the Night';
const dialog = (page: Page) => page.getByRole('dialog');
const ripple = (page: Page) => page.getByRole('region', { name: 'Ripple' });

async function more(page: Page, item: string | RegExp): Promise<void> {
  await page.getByRole('button', { name: 'More …' }).click();
  await page.getByRole('menuitem', { name: item }).click();
}

/** Chooses in a dialog by typing what is wanted. */
async function pick(page: Page, name: string, text: string): Promise<void> {
  await dialog(page).getByRole('combobox', { name }).click();
  await page.keyboard.type(text);
  await page.keyboard.press('Enter');
}

async function changeAllLoans(page: Page, stage: string): Promise<void> {
  await more(page, 'Change many …');
  await pick(page, 'Type of what is changed', 'Loans');
  await pick(page, 'Field that is changed', 'Stage');
  await dialog(page).getByRole('combobox', { name: 'Stage of all' }).click();
  await page.locator('.ant-select-dropdown').getByTitle(stage, { exact: true }).last().click();
  await dialog(page)
    .getByRole('button', { name: /^Change \d/ })
    .click();
  await expect(dialog(page)).toHaveCount(0);
}

test('many are changed at once, undone and done again, put in another order, and read step by step', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/bench?type=exhibition');
  const changed = ripple(page).getByRole('region', { name: 'You changed' }).getByRole('listitem');
  await changeAllLoans(page, 'Agreed');
  await expect(changed).not.toHaveCount(0);
  const all = await changed.count();
  // What follows from a change is pointed out beside it.
  await changed.first().hover();
  await expect(ripple(page).locator('[data-follows]').first()).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(changed).toHaveCount(0);
  await more(page, 'Do again what was undone');
  await expect(changed).toHaveCount(all);

  await page.getByRole('button', { name: 'Next save' }).click();
  await changeAllLoans(page, 'Declined');
  await expect(page.getByRole('region', { name: 'Save 2' })).toBeVisible();
  await more(page, 'What is staged, in order …');
  await dialog(page).getByRole('button', { name: 'Leave out: Next save' }).click();
  await dialog(page).getByRole('button', { name: 'Close' }).click();
  await expect(page.getByRole('region', { name: 'Save 2' })).toHaveCount(0);

  await more(page, 'Read a rule on a record …');
  await pick(page, 'Rule that is read', 'loans due soon');
  await pick(page, 'Record on which it is read', 'telescopes');
  const condition = dialog(page).getByRole('region', { name: 'which Loans count' });
  await expect(condition).toContainText('Stage Declined is Agreed doesn’t hold');
  await expect(condition).toContainText(/Due back .* is on or after today .* holds/);
});

test('another day turns what hangs on it; the draft is compared with today’s rules, and tried on the real data', async ({
  page,
}) => {
  const { rules } = (await (await page.request.get(`${api}/rules`)).json()) as {
    rules: { id: string; name: string }[];
  };
  const draft = rules.find(({ name }) => name === 'Last due back')!;
  await page.goto(`/w/wrenfield/bench?type=exhibition&rule=${draft.id}`);
  await expect(page.getByRole('region', { name: 'Family', exact: true })).toContainText(EXHIBITION);
  await more(page, 'Compare with today’s rules');
  const differences = ripple(page).getByRole('table');
  await expect(differences.getByRole('row')).toHaveCount(2);
  await expect(differences).toContainText(`Last due back of ${EXHIBITION}`);
  await more(page, 'Show the ripple');

  await more(page, 'On the real data …');
  await expect(dialog(page)).toContainText('It would touch 6 records, 6 values.');
  await expect(dialog(page)).toContainText('Nothing was saved, and nobody’s save waited.');
  await dialog(page).getByRole('button', { name: 'Close' }).click();

  const soon = page
    .getByRole('region', { name: 'Family', exact: true })
    .getByText('Loans due soon')
    .locator('..');
  await expect(soon).toContainText('0');
  const day = page.getByRole('textbox', { name: 'Day on the bench' });
  await day.fill('1 Feb 2028');
  await day.press('Enter');
  await expect(soon).not.toContainText('0');
});

test('from a save on it is another day, and another person acts; a proof keeps both', async ({ page }) => {
  await page.goto('/w/wrenfield/bench?type=artefact');
  await page.getByRole('button', { name: 'Add an inspection' }).click();
  await more(page, 'Another day, or another person …');
  await expect(dialog(page).getByRole('button', { name: 'From now on' })).toBeDisabled();
  const day = dialog(page).getByRole('textbox', { name: 'Day of the next save' });
  await day.fill('4 Jun 2027');
  await day.press('Enter');
  await pick(page, 'Who makes the next save', 'Farid');
  await dialog(page).getByRole('button', { name: 'From now on' }).click();
  const next = page.getByRole('region', { name: 'Save 2' });
  await expect(next).toContainText('Save 2, on 4 Jun 2027, by Farid Benhaddou');
  await page.getByRole('button', { name: /^Completed of New inspection 1/ }).click();
  await page.getByRole('combobox', { name: 'Completed of New inspection 1' }).click();
  await page.locator('.ant-select-dropdown').getByTitle('yes', { exact: true }).last().click();
  await expect(next).toContainText('Farid Benhaddou');
  await expect(next).toContainText('4 Jun 2027');

  await page.getByRole('button', { name: 'Keep …' }).click();
  await page.getByRole('menuitem', { name: 'As a proof of a rule …' }).click();
  await pick(page, 'Proof of the rule', 'inspection inspector');
  await dialog(page).getByRole('textbox', { name: 'Name' }).fill('Farid completes it in June');
  await expect(dialog(page)).toContainText(/Inspector of New inspection 1 becomes Farid Benhaddou/);
  await dialog(page).getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByText(/Farid completes it in June.*it holds/)).toBeVisible();

  const { proofs } = (await (await page.request.get(`${api}/rules/${await ruleOf(page)}/proofs`)).json()) as {
    proofs: { proof: { id: string; name: string } }[];
  };
  const { id } = proofs.find(({ proof }) => proof.name.startsWith('Farid'))!.proof;
  await page.goto(`/w/wrenfield/bench?proof=${id}`);
  await expect(ripple(page)).toContainText('It holds: everything comes as it expects.');
  await more(page, 'What is staged, in order …');
  await expect(dialog(page).getByRole('listitem')).toContainText([
    'Ines Valcourt acts',
    'New inspection 1 is made',
    'On 4 Jun 2027',
    'Farid Benhaddou acts',
    'Completed of New inspection 1 becomes yes',
  ]);
  await dialog(page).getByRole('button', { name: 'Close' }).click();

  // Where it fails the field is marked, and the save is shown in which it comes otherwise.
  const headers = await asPerson(page);
  const kept = (await (await page.request.get(`${api}/proofs/${id}`)).json()) as {
    expectations: { kind: string; field?: string }[];
  };
  const expectations = kept.expectations.map((one) =>
    one.kind === 'becomes' && one.field === 'inspector' ? { ...one, value: headers['Oikon-Person'] } : one,
  );
  await page.request.patch(`${api}/proofs/${id}`, { headers, data: { version: 1, expectations } });
  await page.reload();
  await expect(page.getByRole('region', { name: 'The proof' })).toContainText(
    'should become Ines Valcourt; it was Farid Benhaddou. In save 2',
  );
  await expect(page.locator('[data-cell=marked]')).toContainText('Farid Benhaddou');
  await page.getByRole('button', { name: 'In save 2' }).click();
  await expect(page.getByRole('region', { name: 'Save 2' })).toBeFocused();
  await page.request.delete(`${api}/proofs/${id}`, { headers });
});

async function ruleOf(page: Page): Promise<string> {
  const { rules } = (await (await page.request.get(`${api}/rules`)).json()) as {
    rules: { id: string; name: string }[];
  };
  return rules.find(({ name }) => name.startsWith('Inspector of'))!.id;
}

test('expected values come from a file worked out elsewhere, each difference is told; the proof is renamed and trimmed', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/bench?type=exhibition');
  await changeAllLoans(page, 'Declined');
  await page.getByRole('button', { name: 'Keep …' }).click();
  await page.getByRole('menuitem', { name: 'As a proof of a rule …' }).click();
  await pick(page, 'Proof of the rule', 'lenders');
  const file = (text: string) => ({
    ...{ name: 'expected.csv', mimeType: 'text/csv', buffer: Buffer.from(text) },
  });
  const choose = dialog(page).locator('input[type=file]');
  await choose.setInputFiles(file('name,value\nx,y\n'));
  await expect(dialog(page)).toContainText('The file needs the columns record, field and expected');
  await choose.setInputFiles(
    file(
      `Record,Field,Expected\n${EXHIBITION},Lenders,Nobody\nVelvet,Lenders,\n${EXHIBITION},Loans due soon,0\n`,
    ),
  );
  await expect(dialog(page)).toContainText('Line 3: no record of the family is called “Velvet”.');
  await expect(dialog(page)).toContainText('2 values expected; 1 differs from what the rule gives.');
  await expect(dialog(page)).toContainText(`Lenders of ${EXHIBITION}: Nobody expected, empty found`);
  await choose.setInputFiles(
    file(`record,field,expected\n${EXHIBITION},Lenders,\n${EXHIBITION},Loans due soon,0\n`),
  );
  await expect(dialog(page)).toContainText('2 values expected; the rule gives all of them.');
  await dialog(page).getByRole('textbox', { name: 'Name' }).fill('All are declined');
  await dialog(page).getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByText('“All are declined” is kept; it holds.')).toBeVisible();

  const { rules } = (await (await page.request.get(`${api}/rules`)).json()) as {
    rules: { id: string; name: string }[];
  };
  await page.goto(`/w/wrenfield/rules/${rules.find(({ name }) => name === 'Lenders')!.id}`);
  const proofs = page.getByRole('region', { name: 'Proofs' });
  await proofs.getByRole('button', { name: 'Change the proof All are declined' }).click();
  await dialog(page).getByRole('textbox', { name: 'Name' }).fill('Nobody is thanked');
  await dialog(page)
    .getByRole('checkbox', { name: /Loans due soon/ })
    .click();
  await dialog(page).getByRole('button', { name: 'Save' }).click();
  await expect(proofs.getByRole('link', { name: 'Nobody is thanked' })).toBeVisible();
  await proofs.getByRole('button', { name: 'Remove the proof Nobody is thanked' }).click();
  await page.getByRole('button', { name: 'Remove it' }).last().click();
  await expect(proofs.getByRole('link', { name: 'Nobody is thanked' })).toHaveCount(0);
});

test('two families stand side by side, each with what is staged on it', async ({ page }) => {
  await page.goto('/w/wrenfield/bench?type=exhibition');
  const ripples = page.getByRole('region', { name: 'Ripple' });
  await page.getByRole('button', { name: 'More …' }).click();
  await page.getByRole('menuitem', { name: 'Another family beside it …' }).click();
  await dialog(page).getByRole('combobox', { name: 'Family beside it' }).click();
  await page.getByTitle('Rivers of Silk', { exact: true }).click();
  const second = page.getByRole('region', { name: 'Family beside it' });
  await expect(second).toContainText('Rivers of Silk');
  await expect(page.getByRole('region', { name: 'Family', exact: true })).toContainText(EXHIBITION);
  await second.getByRole('button', { name: /^Climate requirement of Rivers of Silk: .*Edit$/ }).click();
  await page.getByRole('textbox', { name: 'Climate requirement of Rivers of Silk' }).fill('17 °C');
  await page.keyboard.press('Enter');
  await expect(ripples.last()).toContainText('17 °C');
  await expect(ripples.first()).toContainText('Change something in the family');
  await page.getByRole('button', { name: 'More …' }).last().click();
  await page.getByRole('menuitem', { name: 'One family at a time' }).click();
  await expect(second).toHaveCount(0);
});

test('a family is searched, and narrowed to what changed with its columns; the ripple tells what is alike as one', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/bench');
  const family = page.getByRole('region', { name: 'Family', exact: true });
  const only = family.getByRole('checkbox', { name: /^Only what changed/ });
  await expect(only).toBeDisabled();
  await family.getByRole('searchbox', { name: 'Search this family' }).fill('telescopes');
  await expect(family.getByRole('row', { name: /telescopes/ }).first()).toBeVisible();
  await expect(family.getByRole('row', { name: /clocks/ })).toHaveCount(0);
  await family.getByRole('searchbox', { name: 'Search this family' }).fill('');
  const coordinator = family.getByRole('button', { name: /^Coordinator of Instruments of the Night.*Edit$/ });
  await coordinator.click();
  await page.locator('.ant-select-item-option').filter({ hasText: 'Callum Reyes' }).click();
  const ripple = page.getByRole('region', { name: 'Ripple' });
  const alike = ripple.getByRole('button', { name: /Coordinator of 6 Loans/ });
  await alike.click();
  await expect(ripple.getByRole('listitem').filter({ hasText: 'clocks' }).first()).toBeVisible();
  await only.check();
  await expect(family.getByRole('columnheader', { name: 'Coordinator', exact: true })).toBeVisible();
  await expect(family.getByRole('columnheader', { name: 'Fee' })).toHaveCount(0);
});

test('a value that a rule keeps opens on the bench into how it came about, and from there the rule', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/bench?type=exhibition');
  await page.getByRole('button', { name: /^Quoted fees of Instruments of the Night: .* see how$/ }).click();
  await expect(dialog(page)).toContainText('Quoted fees');
  await expect(dialog(page).getByRole('table')).toContainText('astrolabes');
  await dialog(page).getByRole('link', { name: 'Open the rule' }).click();
  await expect(page.getByRole('heading', { name: 'Quoted fees' })).toBeVisible();
});
