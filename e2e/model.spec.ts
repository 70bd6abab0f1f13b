import { expect, type Page, test } from './test';

const dialog = (page: Page) => page.getByRole('dialog');
const would = (page: Page) => page.getByRole('region', { name: 'What it would do' });
const type = (page: Page, name: string) => page.getByRole('region', { name: `Type ${name}` });

async function open(page: Page): Promise<void> {
  await page.goto('/w/wrenfield/model');
  await expect(page.getByTestId('type-on-map').first()).toBeVisible();
}

test('a type with a field and a link is made on the map, filled in Records, and removed again', async ({
  page,
}) => {
  await open(page);
  await page.getByRole('button', { name: 'Add a type' }).click();
  await dialog(page).getByRole('textbox', { name: 'Name', exact: true }).fill('Pallet');
  await dialog(page).getByRole('textbox', { name: 'Records are named by' }).fill('Label');
  await expect(would(page)).toContainText('Makes the type Pallet');
  await dialog(page).getByRole('button', { name: 'Add the type' }).click();
  await expect(dialog(page)).toHaveCount(0);
  await expect(page.getByTestId('type-on-map').filter({ hasText: 'Pallet' })).toBeVisible();

  await type(page, 'Pallet').getByRole('button', { name: 'Add a field' }).click();
  await dialog(page).getByRole('textbox', { name: 'Name', exact: true }).fill('Own weight');
  await dialog(page).getByRole('combobox', { name: 'Kind' }).click();
  await page.getByTitle('number', { exact: true }).click();
  await dialog(page).getByRole('textbox', { name: 'Unit' }).fill('kg');
  await dialog(page).getByRole('textbox', { name: 'Default' }).fill('12');
  await dialog(page).getByRole('button', { name: 'Add the field' }).click();
  await expect(type(page, 'Pallet')).toContainText('number, kg');

  await page.getByTestId('type-on-map').filter({ hasText: 'Artefact' }).click();
  await type(page, 'Artefact').getByRole('button', { name: 'Add a link' }).click();
  await dialog(page).getByRole('textbox', { name: 'Name', exact: true }).fill('Pallet');
  await dialog(page).getByRole('combobox', { name: 'Names records of' }).click();
  await page.keyboard.type('Pallet');
  await page.getByTitle('Pallet', { exact: true }).click();
  await dialog(page).getByRole('textbox', { name: 'Name of the other end' }).fill('Contents');
  await dialog(page).getByRole('button', { name: 'Add the link' }).click();
  await expect(type(page, 'Artefact')).toContainText('link to Pallet');

  await page.goto('/w/wrenfield/records/pallet/new');
  await expect(page.getByRole('textbox', { name: 'Own weight' })).toHaveValue('12');
  await page.getByRole('textbox', { name: 'Label' }).fill('Pallet 1');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Pallet 1' })).toBeVisible();

  // A type that others link to can’t go; the link first, then the type, which says what goes with it.
  await open(page);
  await page.getByTestId('type-on-map').filter({ hasText: 'Pallet' }).click();
  await type(page, 'Pallet').getByRole('button', { name: 'Remove …' }).click();
  await expect(would(page)).toContainText('Pallet is named by Pallet of Artefact');
  await expect(dialog(page).getByRole('button', { name: 'Remove it' })).toBeDisabled();
  await dialog(page).getByRole('button', { name: 'Cancel' }).click();
  await page.getByTestId('type-on-map').filter({ hasText: 'Artefact' }).click();
  await type(page, 'Artefact').getByRole('button', { name: 'Remove Pallet' }).click();
  await dialog(page).getByRole('button', { name: 'Remove it' }).click();
  await expect(dialog(page)).toHaveCount(0);
  await page.getByTestId('type-on-map').filter({ hasText: 'Pallet' }).click();
  await type(page, 'Pallet').getByRole('button', { name: 'Remove …' }).click();
  await expect(would(page)).toContainText('with its 1 record');
  await dialog(page).getByRole('button', { name: 'Remove it' }).click();
  await expect(page.getByTestId('type-on-map').filter({ hasText: 'Pallet' })).toHaveCount(0);
});

test('a change shows what it would do to values and rules before it is done; what a rule needs can’t go', async ({
  page,
}) => {
  await open(page);
  await page.getByText('List', { exact: true }).click();
  await page.getByRole('button', { name: 'Loan', exact: true }).click();
  await type(page, 'Loan').getByRole('button', { name: 'Insured value', exact: true }).click();
  await expect(type(page, 'Loan')).toContainText('read by');
  await type(page, 'Loan').getByRole('button', { name: 'Remove Insured value' }).click();
  await expect(would(page)).toContainText('couldn’t stand afterwards');
  await expect(dialog(page).getByRole('button', { name: 'Remove it' })).toBeDisabled();
  await dialog(page).getByRole('button', { name: 'Cancel' }).click();

  // A new name is carried through into the sentences of rules.
  await type(page, 'Loan').getByRole('button', { name: 'Change Insured value' }).click();
  await dialog(page).getByRole('textbox', { name: 'Name', exact: true }).fill('Cover');
  await expect(would(page)).toContainText('of Cover in GBP at the rate of today over its Loans');
  await dialog(page).getByRole('button', { name: 'Change the field' }).click();
  await expect(type(page, 'Loan').getByRole('button', { name: 'Cover', exact: true })).toBeVisible();
  await type(page, 'Loan').getByRole('button', { name: 'Change Cover' }).click();
  await dialog(page).getByRole('textbox', { name: 'Name', exact: true }).fill('Insured value');
  await expect(would(page)).toContainText('of Insured value in GBP at the rate of today over its Loans');
  await dialog(page).getByRole('button', { name: 'Change the field' }).click();
  await expect(type(page, 'Loan').getByRole('button', { name: 'Insured value', exact: true })).toBeVisible();
});

test('the map is worked by keyboard, and leaves as SVG and as Mermaid text', async ({ page }) => {
  await open(page);
  const box = page.getByRole('group', { name: /^Exhibition, \d+ fields/ });
  await box.focus();
  await page.keyboard.press('Enter');
  await expect(type(page, 'Exhibition')).toBeVisible();
  for (const [item, part] of [
    ['The map as SVG', '<svg'],
    ['The model as Mermaid text', 'exhibition |o--o{ loan : "Exhibition"'],
  ] as const) {
    await page.getByRole('button', { name: 'Export' }).click();
    const download = page.waitForEvent('download');
    await page.getByRole('menuitem', { name: item }).click();
    const chunks: Buffer[] = [];
    for await (const chunk of await (await download).createReadStream()) chunks.push(chunk as Buffer);
    expect(Buffer.concat(chunks).toString('utf8')).toContain(part);
  }
});

test('the field that a rule is to keep is made without leaving its sentence', async ({ page }) => {
  await page.goto('/w/wrenfield/rules/new');
  for (const [part, item] of [
    ['Type of record', 'Exhibition'],
    ['Aggregate', /^average/],
    ['Records that are brought together', /^Loans/],
    ['Value that is brought together', /^Insured value/],
    ['Field that is kept', 'a new field …'],
  ] as const) {
    await page.getByRole('button', { name: new RegExp(`^${part}`) }).click();
    await page.getByRole('menuitem', { name: item }).click();
  }
  await dialog(page).getByRole('textbox', { name: 'Name', exact: true }).fill('Usual cover');
  await expect(dialog(page).getByRole('textbox', { name: 'Currency' })).toHaveValue('GBP');
  await dialog(page).getByRole('button', { name: 'Add the field' }).click();
  await expect(page.getByRole('button', { name: 'Field that is kept: Usual cover' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Save as draft' })).toBeEnabled();
  // As it was before, for those who come after.
  await open(page);
  await page.getByTestId('type-on-map').filter({ hasText: 'Exhibition' }).click();
  await type(page, 'Exhibition').getByRole('button', { name: 'Remove Usual cover' }).click();
  await dialog(page).getByRole('button', { name: 'Remove it' }).click();
  await expect(dialog(page)).toHaveCount(0);
});

test('where a type, a field, an option or a person is used is told before anything is changed', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/model');
  await page.getByText('List', { exact: true }).first().click();
  await page.getByRole('button', { name: 'Loan', exact: true }).first().click();
  const panel = page.getByRole('region', { name: 'Type Loan' });
  await panel.getByRole('button', { name: 'Stage', exact: true }).click();
  await panel
    .getByRole('row')
    .filter({ hasText: 'Stage' })
    .getByRole('button', { name: 'Where it is used …' })
    .click();
  const dialog = page.getByRole('dialog', { name: 'Where Stage of Loans is used' });
  const rules = dialog.getByRole('region', { name: 'Rules' });
  await expect(rules.getByRole('link', { name: 'Lent total' })).toBeVisible();
  const all = await rules.getByRole('listitem').count();
  await dialog.getByRole('combobox', { name: 'Option' }).click();
  await page.locator('.ant-select-item-option').filter({ hasText: 'Declined' }).click();
  await expect(rules.getByRole('link', { name: 'Lent total' })).toBeHidden();
  expect(await rules.getByRole('listitem').count()).toBeLessThan(all);
  await page.keyboard.press('Escape');
  await expect(dialog).toBeHidden();
  await page.getByRole('button', { name: /^Acting as/ }).click();
  await page.getByRole('menuitem', { name: /^Where .* is named/ }).click();
  await expect(page.getByRole('dialog')).toContainText(/is used/);
});

test('the dictionary tells types, fields and rules in words, and leaves as a file', async ({ page }) => {
  await page.goto('/w/wrenfield/model');
  await page.getByRole('button', { name: 'Export' }).click();
  await page.getByRole('menuitem', { name: /^Dictionary/ }).click();
  const loans = page.getByRole('region', { name: 'Loans', exact: true });
  await expect(loans.getByRole('row', { name: /^Stage/ })).toContainText('Requested, Agreed');
  await expect(loans).toContainText('On every Loan, keep Artefact count equal to the count of its Artefacts');
  const book = page.waitForEvent('download');
  await page.getByRole('button', { name: 'As XLSX' }).click();
  expect((await book).suggestedFilename()).toBe('dictionary.xlsx');
  const file = page.waitForEvent('download');
  await page.getByRole('button', { name: 'As HTML' }).click();
  expect((await file).suggestedFilename()).toBe('dictionary.html');
});

test('on the map a type is found, seen with its neighbours alone, and with its fields', async ({ page }) => {
  await page.goto('/w/wrenfield/model');
  const boxes = page.getByTestId('type-on-map');
  const fields = (name: string) => boxes.filter({ hasText: name }).getByRole('listitem');
  await expect(boxes.first()).toBeVisible();
  const all = await boxes.count();
  await page.getByRole('combobox', { name: 'Find a type' }).fill('Crate');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Crate' })).toBeVisible();
  await page.getByRole('checkbox', { name: 'Only Crate and its neighbours' }).check();
  await expect(boxes.filter({ hasText: 'Shipment' })).toHaveCount(1);
  await expect(boxes.filter({ hasText: 'Courier' })).toHaveCount(0);
  expect(await boxes.count()).toBeLessThan(all);
  await page.getByRole('checkbox', { name: 'Fields' }).check();
  await expect(fields('Shipment').filter({ hasText: 'link' }).first()).toBeVisible();
});

test('on the map of rules one is found, and seen with what feeds it and what it feeds', async ({ page }) => {
  await page.goto('/w/wrenfield/rules/review');
  const boxes = page.getByTestId('rule-on-map');
  await expect(boxes.first()).toBeVisible();
  const all = await boxes.count();
  await page.getByRole('combobox', { name: 'Find a rule' }).fill('Lent total');
  await page.keyboard.press('Enter');
  await page.getByRole('checkbox', { name: 'Only “Lent total”, what feeds it and what it feeds' }).check();
  await expect(boxes.filter({ hasText: 'Institution: Lent total' })).toHaveCount(1);
  await expect.poll(() => boxes.count()).toBeLessThan(all);
});

test('a bridge is named from both its ends; options are pasted as a list; fields are added one after another', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/model');
  await page.getByRole('button', { name: 'Add a type' }).click();
  await dialog(page).getByRole('textbox', { name: 'Name', exact: true }).fill('Booking');
  await dialog(page).getByText('A bridge: each record joins two others').click();
  await dialog(page).getByRole('combobox', { name: 'Joins' }).click();
  await page.getByTitle('Courier', { exact: true }).click();
  await page.getByTitle('Rate', { exact: true }).click();
  await page.keyboard.press('Escape');
  await expect(dialog(page).getByRole('textbox', { name: 'On each Courier, they are called' })).toHaveValue(
    'Bookings',
  );
  await dialog(page).getByRole('textbox', { name: 'On each Courier, they are called' }).fill('Rates booked');
  await dialog(page).getByRole('button', { name: 'Add the type' }).click();
  await expect(dialog(page)).toHaveCount(0);

  await type(page, 'Booking').getByRole('button', { name: 'Add a field' }).click();
  await dialog(page).getByRole('textbox', { name: 'Name', exact: true }).fill('Paid');
  await dialog(page).getByRole('button', { name: 'Add, and another' }).click();
  await expect(dialog(page).getByRole('textbox', { name: 'Name', exact: true })).toHaveValue('');
  await dialog(page).getByRole('textbox', { name: 'Name', exact: true }).fill('Way');
  await dialog(page).getByRole('combobox', { name: 'Kind' }).click();
  await page.getByTitle('choice', { exact: true }).click();
  await dialog(page).getByRole('button', { name: 'Add an option' }).click();
  await dialog(page)
    .getByRole('textbox', { name: 'Option 1' })
    .evaluate((input) => {
      const data = new DataTransfer();
      data.setData('text', 'Road\nRail\nSea');
      input.dispatchEvent(
        new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }),
      );
    });
  await expect(dialog(page).getByRole('textbox', { name: 'Option 3' })).toHaveValue('Sea');
  await dialog(page).getByRole('button', { name: 'Add the field' }).click();
  await expect(dialog(page)).toHaveCount(0);
  await expect(type(page, 'Booking').getByRole('row', { name: /^Paid/ })).toBeVisible();
  await expect(type(page, 'Booking').getByRole('row', { name: /^Way/ })).toContainText('choice of 3');

  await type(page, 'Booking').getByRole('button', { name: 'Remove …' }).click();
  await dialog(page).getByRole('button', { name: 'Remove it' }).click();
  await expect(dialog(page)).toHaveCount(0);
});
