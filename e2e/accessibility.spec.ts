import AxeBuilder from '@axe-core/playwright';
import { expect, type Page, test } from './test';

const VIEWS: readonly [name: string, open: (page: Page) => Promise<void>][] = [
  [
    'the model',
    async (page) => {
      await page.goto('/w/wrenfield/model');
      await expect(page.getByTestId('type-on-map').first()).toBeVisible();
      await expect(page.getByRole('region', { name: /^Type / })).toBeVisible();
    },
  ],
  [
    'the rules',
    async (page) => {
      await page.goto('/w/wrenfield/rules');
      await expect(page.getByRole('listitem').first()).toBeVisible();
    },
  ],
  [
    'a rule',
    async (page) => {
      await page.goto('/w/wrenfield/rules');
      await page.getByRole('listitem').filter({ hasText: 'Lent total' }).getByRole('link').click();
      await expect(
        page.getByRole('region', { name: 'Worked example' }).getByRole('status').first(),
      ).toBeVisible();
    },
  ],
  [
    'the bench',
    async (page) => {
      await page.goto('/w/wrenfield/bench?type=exhibition');
      await expect(page.getByRole('table').first()).toBeVisible();
    },
  ],
  [
    'another day and person on the bench',
    async (page) => {
      await page.goto('/w/wrenfield/bench?type=exhibition');
      await page.getByRole('button', { name: 'More …' }).click();
      await page.getByRole('menuitem', { name: 'Another day, or another person …' }).click();
      await expect(page.getByRole('dialog')).toContainText('Who acts');
    },
  ],
  [
    'a list of records',
    async (page) => {
      await page.goto('/w/wrenfield/records/loan');
      await expect(page.getByText('in all')).toBeVisible();
    },
  ],
  [
    'a record',
    async (page) => {
      await page.goto('/w/wrenfield/records/exhibition');
      await page.getByRole('link', { name: 'Salt and Silver' }).click();
      await expect(page.getByRole('region', { name: 'History' }).getByRole('listitem').first()).toBeVisible();
      await expect(page.getByRole('region', { name: 'Loans' }).getByRole('row').first()).toBeVisible();
    },
  ],
  [
    'what waits today',
    async (page) => {
      await page.goto('/w/wrenfield/today');
      await expect(page.getByRole('button', { name: /^Approve/ }).first()).toBeVisible();
    },
  ],
  [
    'a create rule',
    async (page) => {
      await page.goto('/w/wrenfield/rules');
      await page.getByRole('listitem').filter({ hasText: 'Insurance line of' }).getByRole('link').click();
      await expect(
        page.getByRole('region', { name: 'Worked example' }).getByRole('status').first(),
      ).toBeVisible();
    },
  ],
  [
    'the settings',
    async (page) => {
      await page.goto('/w/wrenfield/settings');
      await expect(page.getByRole('combobox', { name: 'What Callum Reyes may' })).toBeVisible();
    },
  ],
  [
    'the requests',
    async (page) => {
      await page.goto('/w/wrenfield/requests');
      await expect(page.getByRole('link', { name: 'Couriers on tour' })).toBeVisible();
    },
  ],
  [
    'a request',
    async (page) => {
      await page.goto('/w/wrenfield/requests');
      await page.getByRole('link', { name: 'Couriers on tour' }).click();
      await expect(page.getByRole('region', { name: 'How it stands' })).toBeVisible();
    },
  ],
  [
    'an acceptance sheet',
    async (page) => {
      await page.goto('/w/wrenfield/requests');
      await page.getByRole('link', { name: 'Couriers on tour' }).click();
      await page.getByRole('link', { name: 'Acceptance sheet' }).click();
      await expect(page.getByRole('article')).toBeVisible();
    },
  ],
  [
    'the review of all rules',
    async (page) => {
      await page.goto('/w/wrenfield/rules/review');
      await expect(page.getByTestId('rule-on-map').first()).toBeVisible();
    },
  ],
  [
    'what taking a rule live would change',
    async (page) => {
      await page.goto('/w/wrenfield/rules');
      await page.getByRole('listitem').filter({ hasText: 'keep Last due back' }).getByRole('link').click();
      await page.getByRole('button', { name: 'Take it live …' }).click();
      await expect(page.getByRole('dialog').getByRole('row').first()).toBeVisible();
    },
  ],
];

for (const [name, open] of VIEWS) {
  test(`${name} meets WCAG 2.2 AA as far as a program can tell`, async ({ page }) => {
    await open(page);
    const { violations } = await new AxeBuilder({ page })
      .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
      .analyze();
    expect(
      violations.map(({ id, nodes }) => `${id}: ${nodes.map(({ target }) => target.join(' ')).join(', ')}`),
    ).toEqual([]);
  });
}

test('a rule can be written by keyboard alone', async ({ page }) => {
  await page.goto('/w/wrenfield/rules/new');
  const part = page.getByRole('button', { name: /^Type of record/ });
  await expect(part).toBeVisible();
  await part.focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('menuitem', { name: 'Institution' })).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('menuitem', { name: 'Exhibition' })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Type of record: Exhibition' })).toBeFocused();
});

test('the interface works down to 1024 wide: nothing of it lies beyond the edge', async ({ page }) => {
  await page.setViewportSize({ width: 1024, height: 768 });
  for (const [, open] of VIEWS) {
    await open(page);
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(1024);
  }
});
