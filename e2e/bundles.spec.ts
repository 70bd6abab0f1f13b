import { headers } from './records';
import { expect, type Page, test } from './test';

const dialog = (page: Page) => page.getByRole('dialog');
const COPY = 'Wrenfield rehearsal';

/** The text of a file that an action lets the browser save. */
async function saved(page: Page, act: () => Promise<void>): Promise<string> {
  const download = page.waitForEvent('download');
  await act();
  const chunks: Buffer[] = [];
  for await (const chunk of await (await download).createReadStream()) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks).toString('utf8');
}

const fileOf = (text: string) => ({
  name: 'wrenfield.json',
  mimeType: 'application/json',
  buffer: Buffer.from(text),
});

test('a workspace leaves as a bundle, comes back as another, and what was changed there is taken over', async ({
  page,
}) => {
  let text = '';
  await test.step('the bundle has the model, the rules and all records', async () => {
    await page.goto('/workspaces');
    await page.getByRole('button', { name: 'Export Wrenfield Touring as a bundle' }).click();
    text = await saved(page, () => page.getByRole('menuitem', { name: 'These and all records' }).click());
    expect(text).toContain('"format":"oikon.bundle"');
  });

  await test.step('another kind of file is told at once; the bundle becomes a workspace', async () => {
    await page.getByRole('button', { name: 'From a bundle' }).click();
    const input = page.locator('input[type=file]');
    await input.setInputFiles(fileOf('{"format":"something"}'));
    await expect(page.getByRole('alert').filter({ hasText: 'found another kind of file' })).toBeVisible();
    await input.setInputFiles(fileOf(text));
    await expect(dialog(page)).toContainText('bundle of “Wrenfield Touring”, with');
    await dialog(page).getByRole('textbox', { name: 'Name of the new workspace' }).fill(COPY);
    await dialog(page).getByRole('button', { name: 'Make it' }).click();
    await expect(page).toHaveURL(/\/w\/wrenfield-rehearsal\/rules$/);
    await expect(page.getByRole('region', { name: 'Rules on Loans' })).toBeVisible();
  });

  await test.step('in the copy a field is added', async () => {
    await page.goto('/w/wrenfield-rehearsal/model');
    await page.getByTestId('type-on-map').filter({ hasText: 'Loan' }).first().click();
    await page.getByRole('button', { name: 'Add a field' }).click();
    await dialog(page).getByRole('textbox', { name: 'Name', exact: true }).fill('Packed on');
    await dialog(page).getByRole('button', { name: 'Add the field' }).click();
    await expect(dialog(page)).toHaveCount(0);
  });

  await test.step('and a record changed; both are in the bundle of the copy', async () => {
    await page.goto('/w/wrenfield-rehearsal/records/exhibition');
    await page.getByRole('link', { name: 'Salt and Silver' }).click();
    await page.getByRole('textbox', { name: 'Climate requirement' }).fill('20 °C, below 40 % humidity');
    await page.getByRole('form', { name: 'Fields' }).getByRole('button', { name: 'Save' }).click();
    await expect(page.getByText('Nothing is changed.')).toBeVisible();
    await page.goto('/workspaces');
    await page.getByRole('button', { name: `Export ${COPY} as a bundle` }).click();
    text = await saved(page, () => page.getByRole('menuitem', { name: 'These and all records' }).click());
  });

  await test.step('the first workspace is compared with that, and takes the field over', async () => {
    await page.goto('/w/wrenfield/model');
    await page.getByRole('button', { name: 'Export', exact: true }).click();
    await page.getByRole('menuitem', { name: 'Compare with another workspace or a bundle …' }).click();
    await page.locator('input[type=file]').setInputFiles(fileOf(text));
    const fields = page.getByRole('region', { name: 'Fields and links' });
    await expect(fields).toContainText('Packed on of Loan');
    await fields.getByRole('button', { name: 'look' }).first().click();
    await expect(fields.getByRole('row', { name: /name/ })).toContainText('Packed on');
    await expect(page.getByRole('region', { name: 'What it would do' })).toContainText(
      'Adds Packed on to Loan',
    );
    await page.getByRole('button', { name: /^Take over/ }).click();
    await expect(page.getByText('Only records are different')).toBeVisible();
  });

  await test.step('without a file it is the same; rules stand as sentences with the words that differ', async () => {
    const { rules } = (await (
      await page.request.get('/api/v1/workspaces/wrenfield-rehearsal/rules')
    ).json()) as {
      rules: {
        id: string;
        name: string;
        version: number;
        note: string;
        definition: { condition: unknown };
      }[];
    };
    const rule = rules.find(({ name }) => name === 'Last due back')!;
    const change = async (version: number, definition: object): Promise<number> => {
      const changed = await page.request.patch(`/api/v1/workspaces/wrenfield-rehearsal/rules/${rule.id}`, {
        data: { version, definition },
        headers: await headers(page),
      });
      expect(changed.status()).toBe(200);
      return ((await changed.json()) as { version: number }).version;
    };
    const version = await change(rule.version, { ...rule.definition, aggregate: 'minimum' });
    await page.goto('/w/wrenfield-rehearsal/compare');
    await page.getByRole('button', { name: 'Bring from here to …' }).click();
    await page.getByRole('menuitem', { name: 'Wrenfield Touring' }).click();
    await expect(page).toHaveURL(/\/w\/wrenfield\/compare\?with=wrenfield-rehearsal$/);
    const told = page.getByRole('region', { name: 'Rules' });
    await expect(told).toContainText('Last due back');
    await expect(told.locator('ins')).toHaveText('minimum');
    await expect(told.locator('del')).toHaveText('maximum');
    await page.getByRole('checkbox', { name: 'Its records too' }).click();
    await expect(page).toHaveURL(/&records=true$/);
    await change(version, rule.definition);
    await page.reload();
    await expect(page.getByText('Only records are different')).toBeVisible();
  });

  await test.step('the record too, with all that would follow seen before', async () => {
    const records = page.getByRole('region', { name: 'Records' });
    await expect(records).toContainText('1 exhibition');
    await expect(records).toContainText('Salt and Silver');
    await records.getByRole('button', { name: /^Look what taking 1 record over/ }).click();
    await expect(dialog(page)).toContainText('20 °C, below 40 % humidity');
    await dialog(page).getByRole('button', { name: 'Take them over' }).click();
    await expect(page.getByText('Nothing is different')).toBeVisible();
  });

  await test.step('as it was before, for those who come after', async () => {
    await page.goto('/w/wrenfield/model');
    await page.getByTestId('type-on-map').filter({ hasText: 'Loan' }).first().click();
    await page.getByRole('button', { name: 'Remove Packed on' }).click();
    await dialog(page).getByRole('button', { name: 'Remove it' }).click();
    await expect(dialog(page)).toHaveCount(0);
    await page.goto('/workspaces');
    await page.getByRole('button', { name: `Remove ${COPY}`, exact: true }).click();
    await dialog(page).getByRole('textbox', { name: 'The workspace’s name' }).fill(COPY);
    await dialog(page).getByRole('checkbox').check();
    await dialog(page).getByRole('button', { name: 'Remove for good' }).click();
    await expect(page.getByRole('link', { name: COPY, exact: true })).toHaveCount(0);
  });
});
