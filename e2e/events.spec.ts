import { expect, type Page, test } from './test';

const EXHIBITION = 'Painted Sails';

async function openExhibition(page: Page): Promise<void> {
  await page.goto('/w/wrenfield/records/exhibition');
  await page.getByRole('link', { name: EXHIBITION }).click();
  await expect(page.getByRole('form', { name: 'Fields' })).toBeVisible();
}

const countOf = async (page: Page): Promise<number> => {
  const value = page.getByRole('button', { name: /^Artefact count: / });
  return Number((await value.getAttribute('aria-label'))!.replace(/^Artefact count: (\d+).*/, '$1'));
};

test('a record is added under its parent, deleted with what hangs under it, and restored', async ({
  page,
}) => {
  await openExhibition(page);
  const before = await countOf(page);
  await page.getByRole('region', { name: 'Loans' }).getByRole('link', { name: 'Add a loan' }).click();
  await expect(page.getByRole('heading', { name: 'A new loan' })).toBeVisible();
  await page.getByRole('textbox', { name: 'Title' }).fill('A chest of signal flags');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'A chest of signal flags' })).toBeVisible();
  await page
    .getByRole('region', { name: 'Artefacts' })
    .getByRole('link', { name: 'Add an artefact' })
    .click();
  await expect(page.getByRole('heading', { name: 'A new artefact' })).toBeVisible();
  await page.getByRole('textbox', { name: 'Title' }).fill('Flag of the north gate');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(
    page.getByText(/^Saved\. It followed: Artefact count of A chest of signal flags is now 1/),
  ).toBeVisible();
  await expect(page.getByRole('region', { name: 'What follows from this record' })).toContainText(EXHIBITION);
  await openExhibition(page);
  expect(await countOf(page)).toBe(before + 1);

  await page
    .getByRole('region', { name: 'Loans' })
    .getByRole('link', { name: 'A chest of signal flags' })
    .click();
  await expect(page.getByRole('heading', { name: 'A chest of signal flags' })).toBeVisible();
  await page.getByRole('button', { name: 'Delete …' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('2 records would be deleted');
  await expect(
    dialog.getByRole('listitem').filter({ hasText: `Artefact count of ${EXHIBITION}` }),
  ).toContainText(`after: ${before}`);
  await dialog.getByRole('button', { name: 'Delete 2 records' }).click();
  await expect(page).toHaveURL(/records\/loan$/);
  await openExhibition(page);
  expect(await countOf(page)).toBe(before);

  await page.goto('/w/wrenfield/records/artefact');
  await page.getByRole('switch', { name: 'Show the bin' }).click();
  await page.getByRole('link', { name: 'Flag of the north gate' }).click();
  await expect(page.getByRole('region', { name: 'In the bin' })).toContainText(
    'along with A chest of signal flags',
  );
  await page.getByRole('link', { name: 'A chest of signal flags' }).click();
  await expect(page.getByRole('heading', { name: 'A chest of signal flags' })).toBeVisible();
  await page.getByRole('button', { name: 'Restore …' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Restore 2 records' }).click();
  await expect(page.getByRole('form', { name: 'Fields' })).toBeVisible();
  await openExhibition(page);
  expect(await countOf(page)).toBe(before + 1);

  const history = page.getByRole('region', { name: 'History' });
  await history.getByRole('listitem').first().getByRole('link').first().click();
  await expect(page.getByRole('heading', { name: /^Run \d+/ })).toBeVisible();
  await expect(page.getByRole('region', { name: 'Entered' })).toContainText('is restored');
  await page.getByRole('link', { name: 'Ledger', exact: true }).first().click();
  await expect(page.getByRole('region', { name: 'Runs' }).getByRole('row').nth(1)).toContainText('saved');
});

test('a record that others hold on to can’t be deleted, and the dialog says by what', async ({ page }) => {
  await page.goto('/w/wrenfield/records/institution');
  await page.getByRole('link', { name: 'Kestrel Museum', exact: true }).click();
  await page.getByRole('button', { name: 'Delete …' }).click();
  await expect(page.getByRole('dialog').getByRole('alert')).toContainText(/Loans still name it as Lender/);
  await expect(page.getByRole('dialog').getByRole('button', { name: 'Delete', exact: true })).toBeDisabled();
});

test('on the bench records are added, moved by choosing and by dragging; nothing of it is saved', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/bench?type=exhibition');
  await page.getByRole('combobox', { name: 'Sample family' }).click();
  await page.getByTitle(EXHIBITION, { exact: true }).last().click();
  await expect(page.getByRole('heading', { name: new RegExp(`^${EXHIBITION}`) })).toBeVisible();
  const ripple = page.getByRole('region', { name: 'Ripple' });
  await page.getByRole('button', { name: 'Add a loan' }).click();
  await expect(page.getByRole('rowheader', { name: /New loan 1/ })).toBeVisible();

  const toggles = page
    .getByRole('group', { name: 'Loans', exact: true })
    .getByRole('button', { name: /^What hangs under/ });
  // The one just above the new loan, so that both are in view.
  const from = toggles.nth((await toggles.count()) - 2);
  const source = (await from.getAttribute('aria-label'))!.replace('What hangs under ', '');
  await from.click();
  const piece = page.getByTestId('nested').getByRole('row').last();
  const title = (await piece.getByRole('rowheader').innerText()).trim();
  const handle = piece.getByTitle(/^Drag /);
  const target = page.getByRole('rowheader', { name: /New loan 1/ });
  // Away from the edges, where dragging scrolls on.
  await target.evaluate((row) => row.scrollIntoView({ block: 'center' }));
  await piece.hover();
  const [start, end] = [(await handle.boundingBox())!, (await target.boundingBox())!];
  await page.mouse.move(start.x + start.width / 2, start.y + start.height / 2);
  await page.mouse.down();
  await page.mouse.move(end.x + 60, end.y + end.height / 2, { steps: 12 });
  await expect(page.locator('tr[data-drops]')).toBeVisible();
  await page.mouse.up();
  const wave = ripple.getByRole('region', { name: /^First wave/ });
  await expect(wave.getByRole('listitem').filter({ hasText: `Artefact count of ${source}` })).toBeVisible();
  await expect(wave.getByRole('listitem').filter({ hasText: 'Artefact count of New loan 1' })).toContainText(
    'after: 1',
  );

  await page.getByRole('button', { name: `What hangs under New loan 1` }).click();
  await page
    .getByRole('row', { name: new RegExp(title) })
    .last()
    .hover();
  await page.getByRole('button', { name: `Move ${title}` }).click();
  await page.getByRole('combobox', { name: `Loan of ${title}` }).fill(source);
  await page.locator('.ant-select-item-option').getByText(source, { exact: true }).last().click();
  await expect(ripple.getByRole('listitem').filter({ hasText: `Artefact count of ${source}` })).toHaveCount(
    0,
  );

  await page.reload();
  await expect(page.getByRole('heading', { name: new RegExp(`^${EXHIBITION}`) })).toBeVisible();
  await expect(page.getByRole('rowheader', { name: /New loan 1/ })).toHaveCount(0);
});

test('a list is narrowed by a condition as in rules, and its columns are chosen', async ({ page }) => {
  await page.goto('/w/wrenfield/records/loan');
  await expect(page.getByRole('status').filter({ hasText: 'in all' })).toBeVisible();
  await page.getByRole('button', { name: /^Add a test on/ }).click();
  await page.getByRole('menuitem', { name: 'Stage', exact: true }).click();
  await page.getByRole('button', { name: /^Compared with/ }).click();
  await page.getByRole('menuitem', { name: 'Declined' }).click();
  const rows = page.locator('.ant-table-row');
  await expect(rows.first()).toContainText('Declined');
  await expect(rows.filter({ hasText: 'Agreed' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Columns' }).click();
  await page.getByRole('checkbox', { name: 'Due back' }).check();
  await expect(page.getByRole('columnheader', { name: 'Due back' })).toBeVisible();
  await page.reload();
  await expect(page.getByRole('columnheader', { name: 'Due back' })).toBeVisible();
});

test('the ledger tells what rules looked at and left, and why', async ({ page, request }) => {
  const people = await request.get('/api/v1/workspaces/wrenfield/people');
  const [person] = ((await people.json()) as { people: { id: string }[] }).people;
  const left = { kind: 'field', route: [], field: 'stage' };
  const stage = { kind: 'compare', operator: '=', left, right: { kind: 'constant', value: 'declined' } };
  const declined = await request.get(
    `/api/v1/workspaces/wrenfield/records/loan?limit=1&condition=${encodeURIComponent(JSON.stringify(stage))}`,
  );
  const [loan] = ((await declined.json()) as { records: { id: string }[] }).records;
  const values = { insuredValue: { amount: '1234.56', currency: 'GBP' } };
  const saved = await request.post('/api/v1/workspaces/wrenfield/changes', {
    headers: { 'Oikon-Person': person!.id },
    data: { edits: [{ kind: 'edit', type: 'loan', id: loan!.id, version: '*', values }] },
  });
  const { run } = (await saved.json()) as { run: string };
  await page.goto(`/w/wrenfield/ledger/${run}`);
  const asItIs = page.getByRole('region', { name: 'Left as it is' });
  await expect(asItIs).toContainText('By “Lent total”.');
  await asItIs.getByText('what changed doesn’t count: fails “Stage is Agreed”: here Declined').click();
  await expect(asItIs.getByRole('paragraph')).toBeVisible();
});

test('marked records are edited together as one run, which the ledger undoes', async ({ page }) => {
  await page.goto('/w/wrenfield/records/loan');
  const rows = page.locator('.ant-table-row');
  await expect(rows.first()).toBeVisible();
  const titles = [
    await rows.nth(0).getByRole('link').innerText(),
    await rows.nth(1).getByRole('link').innerText(),
  ];
  for (const title of titles)
    await page.getByRole('checkbox', { name: `Mark ${title}`, exact: true }).check();
  await expect(page.getByRole('group', { name: 'Marked records' })).toContainText('2 loans marked');
  await page.getByRole('button', { name: 'Edit together …' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('combobox', { name: 'Field' }).click();
  await page.getByTitle('Courier instruction', { exact: true }).click();
  await dialog.getByRole('textbox', { name: 'New value' }).fill('By hand only');
  await expect(dialog).toContainText('2 would change');
  await dialog.getByRole('button', { name: 'Save 2' }).click();
  await expect(dialog).toHaveCount(0);

  await page.goto('/w/wrenfield/ledger');
  await page.getByRole('link', { name: /^Run / }).first().click();
  await expect(page.getByRole('region', { name: 'Ripple' })).toContainText('By hand only');
  await page.getByRole('button', { name: 'Undo …' }).click();
  await expect(page.getByRole('dialog')).toContainText('Written back');
  await page.getByRole('dialog').getByRole('button', { name: 'Undo it' }).click();
  await expect(page.getByText(/Undo of run/)).toBeVisible();
});
