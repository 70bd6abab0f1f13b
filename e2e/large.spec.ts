import { type APIRequestContext, expect, test } from './test';

const ROWS = 10_000;

/** A copy of the demo with many more artefacts than are marked together. */
async function largeCopy(
  request: APIRequestContext,
): Promise<{ key: string; headers: Readonly<Record<string, string>> }> {
  const people = await request.get('/api/v1/workspaces/wrenfield/people');
  const [person] = ((await people.json()) as { people: { id: string }[] }).people;
  const headers = { 'Oikon-Person': person!.id };
  const made = await request.post('/api/v1/workspaces', {
    headers,
    data: { name: 'Many artefacts', copyOf: 'wrenfield', withRecords: true },
  });
  const { key } = (await made.json()) as { key: string };
  const plan = { format: 'csv', columns: [{ column: 'Title', field: 'title' }] };
  const rows = Array.from({ length: ROWS }, (_, at) => `Shard ${at}`).join('\n');
  const taken = await request.post(`/api/v1/workspaces/${key}/imports/artefact`, {
    headers: { ...headers, 'Content-Type': 'application/octet-stream' },
    data: Buffer.from(`${JSON.stringify(plan)}\nTitle\n${rows}\n`),
  });
  expect(taken.status()).toBe(201);
  return { key, headers };
}

test('a list of thousands is edited as a whole: looked at first, saved as one run, undone as a set', async ({
  page,
  request,
}) => {
  const { key, headers } = await largeCopy(request);
  await page.goto(`/w/${key}/records/artefact`);
  await page.getByRole('searchbox', { name: 'Search in titles' }).fill('Shard');
  await expect(page.getByRole('status').filter({ hasText: '10,000 in all' })).toBeVisible();

  await test.step('what it would do is worked out over the whole list', async () => {
    await page.locator('.ant-table-row').first().getByRole('checkbox').check();
    await page.getByRole('button', { name: 'Edit the whole list …' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByRole('combobox', { name: 'Field' }).click();
    await page.getByTitle('Maker', { exact: true }).click();
    await dialog.getByRole('textbox', { name: 'New value' }).fill('Workshop of the mill');
    await expect(dialog.getByRole('button', { name: 'Save' })).toBeDisabled();
    await dialog.getByRole('button', { name: 'Look what it would do' }).click();
    const would = dialog.getByRole('region', { name: 'What it would do' });
    await expect(would).toContainText('10,000 artefacts in the list.');
    await expect(would.getByRole('definition').first()).toHaveText('10,000');
    // Another value has to be looked at anew.
    await dialog.getByRole('textbox', { name: 'New value' }).fill('Workshop of the weir');
    await expect(would).toHaveCount(0);
    await dialog.getByRole('button', { name: 'Look what it would do' }).click();
    await dialog.getByRole('button', { name: 'Save 10,000' }).click();
    await expect(page.getByText(/^Saved 10,000 artefacts as one run/)).toBeVisible();
  });

  await test.step('the ledger has it as one run, and undoes it', async () => {
    await page.getByRole('link', { name: 'Ledger', exact: true }).click();
    await page
      .getByRole('row')
      .filter({ hasText: 'edited a list' })
      .first()
      .getByRole('link', { name: /^Run / })
      .click();
    await expect(page.locator('.place-lead')).toContainText('edited a list on');
    await page.getByRole('button', { name: 'Undo …' }).click();
    const dialog = page.getByRole('dialog');
    await expect(dialog).toContainText('in 10,000 records');
    await dialog.getByRole('button', { name: 'Undo it' }).click();
    await expect(page.locator('.place-lead')).toContainText('Undo of run');
  });
  const gone = await request.delete(`/api/v1/workspaces/${key}`, {
    ...{ headers, data: { confirmation: 'Many artefacts' } },
  });
  expect(gone.status()).toBe(204);
});

test('a run of thousands is a screen in the ledger: what is alike, opened and searched; the ledger is narrowed', async ({
  page,
  request,
}) => {
  const { key, headers } = await largeCopy(request);
  const edited = await request.post(`/api/v1/workspaces/${key}/list-edits/artefact`, {
    headers,
    data: { values: { volume: '0.125' }, search: 'Shard', expected: ROWS, note: 'Measured anew' },
  });
  expect(edited.status()).toBe(201);
  await page.goto(`/w/${key}/ledger`);
  await expect(page.getByRole('table').getByRole('link').first()).toBeVisible();
  await page.getByRole('searchbox', { name: 'Search the ledger' }).fill('measured');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/search=measured/);
  await expect(page.getByRole('table').getByRole('link')).toHaveCount(1);
  await page.getByRole('table').getByRole('link').click();
  const ripple = page.getByRole('region', { name: 'Ripple' });
  const alike = ripple.getByRole('button', { name: /Volume of 10,000 Artefacts/ });
  await expect(ripple).toContainText('0.125 m³');
  await alike.click();
  await ripple.getByRole('searchbox', { name: 'Search these Artefacts' }).fill('Shard 5999');
  await page.keyboard.press('Enter');
  await expect(ripple.getByRole('link', { name: 'Shard 5999' })).toBeVisible();
  await expect(ripple.getByRole('link', { name: 'Shard 0', exact: true })).toHaveCount(0);
  // Of so many it isn't gone over again what rules left, and the page says so.
  await expect(ripple).toContainText('more than 2,000 records: what rules looked at and left');
  await request.delete(`/api/v1/workspaces/${key}`, { headers, data: { confirmation: 'Many artefacts' } });
});
