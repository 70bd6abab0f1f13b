import { manyRules, manyTypes } from '@/core/testing/many';
import { expect, test } from './test';

/** Hundreds of rules: found, put together, tagged, paused and taken live again. */

const TYPES = 180;
const idOf = (at: number): string => `00000000-0000-7000-8000-${String(at).padStart(12, '0')}`;

/** A workspace of as many types, each with its rules. */
const bundle = {
  ...{ format: 'oikon.bundle', version: 2 },
  workspace: { name: 'Many rules', timeZone: 'Europe/London', settledDay: '2026-03-14' },
  ...{ people: [], optionLists: [], selections: [], lists: [], families: [], proofs: [], requests: [] },
  types: manyTypes(TYPES).types,
  rules: manyRules(TYPES).map((definition, at) => ({
    ...{ id: idOf(at), isNamed: false, note: '', state: 'live', definition },
    name: `Rule ${at}`,
  })),
};

test.describe('in a workspace of its own', () => {
  let place = '';
  test.beforeEach(async ({ request }) => {
    const demo = (await (await request.get('/api/v1/workspaces/wrenfield/bundle')).json()) as {
      people: { id: string }[];
    };
    const headers = { 'Oikon-Person': demo.people[0]!.id };
    const made = await request.post('/api/v1/bundles', { headers, data: { ...bundle, people: demo.people } });
    expect(made.status()).toBe(201);
    place = ((await made.json()) as { key: string }).key;
  });
  test.afterEach(async ({ request }) => {
    const { people } = (await (await request.get('/api/v1/people')).json()) as { people: { id: string }[] };
    await request.delete(`/api/v1/workspaces/${place}`, {
      headers: { 'Oikon-Person': people[0]!.id },
      data: { confirmation: bundle.workspace.name },
    });
  });

  test('five hundred rules are narrowed to a few, tagged, paused in one run, and taken live again together', async ({
    page,
  }) => {
    await page.goto(`/w/${place}/rules`);
    await expect(page.getByText(`${bundle.rules.length} rules`)).toBeVisible();
    expect(bundle.rules.length).toBeGreaterThan(500);

    await test.step('only what is about in sight is drawn; the last stands at the end', async () => {
      const rows = page.getByRole('checkbox', { name: /^Mark / });
      await expect(rows.first()).toBeVisible();
      expect(await rows.count()).toBeLessThan(120);
      await page.getByText('Lines', { exact: true }).click();
      await page.getByRole('heading', { name: 'Rules on Types 0' }).hover();
      await expect
        .poll(async () => {
          await page.mouse.wheel(0, 20_000);
          return page.getByRole('heading', { name: `Rules on Types ${TYPES - 1}` }).count();
        })
        .toBe(1);
    });

    await test.step('words and filters find a few, and stand in the address', async () => {
      await page.getByRole('searchbox', { name: 'Search rules' }).fill('sum type 11');
      await page.getByRole('combobox', { name: 'Type' }).click();
      await page.locator('.ant-select-item-option').filter({ hasText: 'Types 110' }).click();
      await expect(page.getByText(`1 of ${bundle.rules.length} rules`)).toBeVisible();
      await page.reload();
      await expect(page.getByText(`1 of ${bundle.rules.length} rules`)).toBeVisible();
      await page.getByRole('button', { name: 'Show all' }).click();
      await page.getByRole('combobox', { name: 'Kind' }).click();
      await page.locator('.ant-select-item-option').filter({ hasText: 'Formula' }).click();
      await expect(page.getByText(`${TYPES} of ${bundle.rules.length} rules`)).toBeVisible();
    });

    await test.step('all that are found are marked, tagged and paused in one run', async () => {
      await page.getByRole('checkbox', { name: `${TYPES} of ${bundle.rules.length} rules` }).check();
      const marked = page.getByRole('region', { name: 'Marked rules' });
      await expect(marked).toContainText(`${TYPES} rules marked`);
      await marked.getByRole('button', { name: 'Tags …' }).click();
      await page.getByRole('combobox', { name: 'Tags to give' }).fill('doubles');
      await page.keyboard.press('Enter');
      await page.keyboard.press('Escape');
      await page.getByRole('dialog').getByRole('button', { name: 'Save' }).click();
      await expect(page.getByRole('dialog')).toBeHidden();
      await marked.getByRole('button', { name: 'Pause' }).click();
      await expect(page.getByText(`${TYPES} rules are paused.`)).toBeVisible();
    });

    await test.step('under their states, with groups folded and remembered', async () => {
      await page.getByRole('button', { name: 'Unmark all' }).click();
      await page.getByRole('button', { name: 'Show all' }).click();
      await page.getByRole('combobox', { name: 'Put together by' }).click();
      await page.locator('.ant-select-item-option').filter({ hasText: 'state' }).click();
      await page.getByRole('button', { name: /^Live/ }).click();
      await expect(page.getByRole('button', { name: /^Live/ })).toHaveAttribute('aria-expanded', 'false');
      await page.reload();
      await expect(page.getByRole('button', { name: /^Live/ })).toHaveAttribute('aria-expanded', 'false');
      await expect(page.getByRole('button', { name: /^Paused/ })).toContainText(String(TYPES));
    });

    await test.step('two are taken live again, seen together first', async () => {
      const boxes = page.getByRole('region', { name: 'Paused' }).getByRole('checkbox', { name: /^Mark / });
      await boxes.nth(0).check();
      await boxes.nth(1).check();
      await page.getByRole('button', { name: 'Take live …' }).click();
      const dialog = page.getByRole('dialog', { name: 'Take 2 rules live in one run' });
      await expect(dialog).toContainText('No proof covers these rules');
      await dialog.getByRole('button', { name: 'Take them live' }).click();
      await expect(page.getByText(/^2 rules are live\./)).toBeVisible();
      await page.getByRole('combobox', { name: 'Tag' }).click();
      await page.locator('.ant-select-item-option').filter({ hasText: 'doubles' }).click();
      await page.getByRole('combobox', { name: 'State' }).click();
      await page.locator('.ant-select-item-option').filter({ hasText: 'Live' }).click();
      await expect(page.getByText(`2 of ${bundle.rules.length} rules`)).toBeVisible();
    });
  });
});

test('a rule is copied to a type where it fits at once, and put right in its sentence where it doesn’t', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/rules?search=artefact+count+of+loans');
  await page.getByRole('link', { name: /Artefact count of loans/ }).click();
  await page.getByRole('button', { name: 'Copy to a type …' }).click();
  await page.getByRole('combobox', { name: 'Type of record' }).click();
  await page
    .locator('.ant-select-item-option')
    .filter({ hasText: /^Courier$/ })
    .click();
  await expect(page.getByRole('dialog')).toContainText('doesn’t fit Courier as it is');
  await page.getByRole('link', { name: 'Put it right in the sentence' }).click();
  await expect(page.getByRole('button', { name: 'Type of record: Courier' })).toBeVisible();
  await expect(page.getByRole('button', { name: /^Aggregate: / })).toBeVisible();
});
