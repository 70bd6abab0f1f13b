import { v7 as newId } from 'uuid';
import { api, headers, records } from './records';
import { choose } from './sentence';
import { expect, type Page, test } from './test';

const dialog = (page: Page) => page.getByRole('dialog');
const NAME = 'Fee of an exhibition, tried';

/** A rule of its own that is live: the sum of the fees of an exhibition's loans, in a field that nothing else keeps. */
async function liveRule(page: Page): Promise<string> {
  const by = { headers: await headers(page) };
  const { version } = (await (await page.request.get(`${api}/types`)).json()) as { version: string };
  const field = {
    key: `tried${newId().slice(-6)}`,
    name: 'Fees, tried',
    type: { kind: 'money', currency: 'GBP' },
  };
  const changes = [{ kind: 'addField', type: 'exhibition', field }];
  await page.request.post(`${api}/model-changes`, { ...by, data: { version, changes } });
  const definition = {
    ...{ kind: 'rollUp', type: 'exhibition', target: field.key, aggregate: 'sum', pace: 'withTheSave' },
    route: [{ direction: 'down', type: 'loan', link: 'exhibition' }],
    ...{ value: { kind: 'field', route: [], field: 'fee' }, condition: null, rounding: null, whenNone: '0' },
  };
  const made = await page.request.post(`${api}/rules`, { ...by, data: { definition, name: NAME } });
  expect(made.status(), await made.text()).toBe(201);
  const { id } = (await made.json()) as { id: string };
  const live = await page.request.post(`${api}/rules/${id}/state`, { ...by, data: { state: 'live' } });
  expect(live.ok(), await live.text()).toBe(true);
  return id;
}

test('a change of a live rule is tried on chosen records; all others go on as they are, until it ends', async ({
  page,
}) => {
  const id = await liveRule(page);
  const [first] = (await records(page, 'exhibition')).filter(({ values }) => values.title !== '');
  const title = String(first!.values.title);
  await page.goto(`/w/wrenfield/rules/${id}`);

  await test.step('it is changed, and tried as a pilot', async () => {
    await choose(page, 'Aggregate', /^maximum/);
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await expect(page.locator('header').getByText('Change not live')).toBeVisible();
    await page.getByRole('button', { name: 'Take the change live …' }).click();
    await dialog(page).getByRole('radio', { name: 'As a pilot, for some Exhibitions' }).check();
    await expect(dialog(page)).toContainText('On all others the rule goes on as it is live now');
    await dialog(page).getByRole('combobox', { name: 'Exhibitions of the pilot' }).click();
    await page.getByTitle(title, { exact: true }).last().click();
    await page.keyboard.press('Escape');
    await expect(dialog(page)).toContainText('1 of 1 Exhibition would change in Fees, tried');
    await dialog(page)
      .getByRole('button', { name: /^Start the pilot/ })
      .click();
    await expect(page.getByText('A pilot. 1 Exhibition changed.')).toBeVisible();
    await expect(page.locator('header').getByText('Change in pilot')).toBeVisible();
    await expect(page.getByText(`the change written here is tried on a pilot: ${title}`)).toBeVisible();
  });

  await test.step('a value opens by the version that gives it', async () => {
    await page.goto('/w/wrenfield/records/exhibition');
    await page.getByRole('link', { name: title }).first().click();
    await page
      .getByRole('button', { name: /^Fees, tried/ })
      .first()
      .click();
    await expect(page.getByText(/maximum of Fee/).first()).toBeVisible();
  });

  await test.step('in the list it is told, and found among the pilots', async () => {
    await page.goto('/w/wrenfield/rules');
    const row = page.getByRole('listitem').filter({ hasText: NAME }).first();
    await expect(row).toContainText('Tried on the pilot');
    await expect(row).toContainText(`for ${title}`);
  });

  await test.step('the pilot ends: the change waits', async () => {
    await page.goto(`/w/wrenfield/rules/${id}`);
    await page.getByRole('button', { name: 'End the pilot' }).click();
    await expect(page.getByText('The pilot ended.')).toBeVisible();
    await expect(page.locator('header').getByText('Change not live')).toBeVisible();
    await expect(page.getByRole('button', { name: 'End the pilot' })).toHaveCount(0);
  });

  await test.step('then the change goes live for all', async () => {
    await page.getByRole('button', { name: 'Take the change live …' }).click();
    await dialog(page)
      .getByRole('button', { name: /^Take it live/ })
      .click();
    await expect(page.locator('header').getByText('Live', { exact: true })).toBeVisible();
    await expect(page.locator('header').getByText('Change not live')).toHaveCount(0);
  });

  const by = { headers: await headers(page) };
  await page.request.post(`${api}/rules/${id}/state`, { ...by, data: { state: 'paused' } });
  await page.request.post(`${api}/rules/${id}/state`, { ...by, data: { state: 'retired' } });
});
