import { expect, type Page, test } from './test';
import { choose } from './sentence';

const dialog = (page: Page) => page.getByRole('dialog');

async function openDefaults(page: Page): Promise<void> {
  await page.goto('/w/wrenfield/rules');
  await page.getByRole('button', { name: 'Defaults for new rules' }).click();
  await expect(dialog(page)).toContainText('What new rules begin with');
}

async function chooseRounding(page: Page, way: string): Promise<void> {
  await dialog(page)
    .getByRole('button', { name: /^Rounding/ })
    .click();
  await page.getByRole('radio', { name: way, exact: true }).check();
}

test('new rules begin with the workspace’s rounding and limits; rules that are there stay as they are', async ({
  page,
}) => {
  await test.step('they are chosen as in a rule, and change nothing that is there', async () => {
    await openDefaults(page);
    await chooseRounding(page, 'up');
    await page.getByRole('checkbox', { name: 'To a multiple of a step' }).check();
    await page.getByRole('textbox', { name: 'Step' }).fill('0');
    await page.getByRole('button', { name: 'Done' }).click();
    await expect(dialog(page)).toContainText('A step is a number above 0');
    await expect(dialog(page).getByRole('button', { name: 'Keep these defaults' })).toBeDisabled();
    await dialog(page)
      .getByRole('button', { name: /^Rounding/ })
      .click();
    await page.getByRole('textbox', { name: 'Step' }).fill('50');
    await page.getByRole('button', { name: 'Done' }).click();
    await dialog(page).getByRole('button', { name: 'Add limits' }).click();
    await page.getByRole('textbox', { name: 'At least' }).fill('100');
    await page.getByRole('button', { name: 'Done' }).click();
    await expect(dialog(page)).not.toContainText('worked out again');
    await dialog(page).getByRole('button', { name: 'Keep these defaults' }).click();
    await expect(dialog(page)).toHaveCount(0);
  });

  await test.step('a rule that is written begins with them, and its example is worked out so', async () => {
    await page.goto('/w/wrenfield/rules/new');
    await choose(page, 'Type of record', 'Exhibition');
    await choose(page, 'Aggregate', /^sum/);
    await choose(page, 'Records that are brought together', /^Loans/);
    await choose(page, 'Value that is brought together', /^Fee/);
    await choose(page, 'Field that is kept', /^Average fee/);
    const sentence = page.getByRole('region', { name: 'The rule', exact: true });
    await expect(sentence).toContainText('up to steps of 50');
    await expect(sentence).toContainText('at least 100');
    const worked = page.getByRole('region', { name: 'Worked example' });
    await worked.getByRole('combobox', { name: 'Sample Exhibition' }).click();
    await page.keyboard.type('Rivers');
    await page.getByTitle('Rivers of Silk', { exact: true }).last().click();
    await expect(worked.getByRole('status')).toContainText(/\d(00|50)\.00 GBP/);
  });

  await test.step('left out again, the next one begins without', async () => {
    await openDefaults(page);
    await chooseRounding(page, 'to the field’s own places');
    await page.getByRole('button', { name: 'Done' }).click();
    await dialog(page)
      .getByRole('button', { name: /^Limits of the result/ })
      .click();
    await page.getByRole('button', { name: 'Leave out' }).click();
    await dialog(page).getByRole('button', { name: 'Keep these defaults' }).click();
    await expect(dialog(page)).toHaveCount(0);
  });
});

test('a rule over an open link is written for the other types that may be named there, too', async ({
  page,
}) => {
  const types = await page.request.get('/api/v1/workspaces/wrenfield/types');
  const { version } = (await types.json()) as { version: string };
  const people = await page.request.get('/api/v1/workspaces/wrenfield/people');
  const [person] = ((await people.json()) as { people: { id: string }[] }).people;
  const added = await page.request.post('/api/v1/workspaces/wrenfield/model-changes', {
    headers: { 'Oikon-Person': person!.id },
    data: {
      version,
      changes: ['artefact', 'crate'].map((type) => ({
        ...{ kind: 'addField', type },
        field: { key: 'visits', name: 'Visits', type: { kind: 'number', scale: 0 } },
      })),
    },
  });
  expect(added.ok(), await added.text()).toBe(true);

  await page.goto('/w/wrenfield/rules/new');
  await choose(page, 'Type of record', 'Artefact');
  await choose(page, 'Aggregate', /^count/);
  await choose(page, 'Records that are brought together', /^Inspections/);
  await choose(page, 'Field that is kept', /^Visits/);
  await page.getByRole('button', { name: 'Save as draft' }).click();
  await expect(page).toHaveURL(/\/rules\/[0-9a-f-]{36}$/);
  const others = page.getByRole('region', { name: 'The same for other types' });
  await expect(others).toContainText('Concerns of an Inspection may also name a Crate.');
  await others.getByRole('button', { name: 'Write the same for Crates, as a draft' }).click();
  await others.getByRole('link', { name: /^Visits of crates/ }).click();
  await expect(page.getByRole('region', { name: 'The rule', exact: true })).toContainText(
    /On every\s*Crate\s*, keep\s*Visits\s*equal to the\s*count/,
  );
  await expect(page.getByRole('region', { name: 'The same for other types' })).toContainText(
    'For Artefacts:',
  );
});
