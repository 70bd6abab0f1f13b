import { actAs } from './acting';
import { api, headers } from './records';
import { expect, type Page, test } from './test';

const dialog = (page: Page) => page.getByRole('dialog');
const waiting = (page: Page) => page.getByRole('region', { name: 'Waits for approval' });

test('two people: what a rule writer asks for an approver approves or refuses, exactly as it was asked for', async ({
  page,
}) => {
  const { rules } = (await (await page.request.get(`${api}/rules`)).json()) as {
    rules: { id: string; name: string; state: string; title: string }[];
  };
  const rule =
    rules.find(({ state, name }) => state === 'live' && /weight/i.test(name)) ??
    rules.find(({ state }) => state === 'live')!;
  const paused = await page.request.post(`${api}/paused-rules`, {
    headers: await headers(page),
    data: { rules: [rule.id] },
  });
  expect(paused.ok(), await paused.text()).toBe(true);

  const ask = async (note: string) => {
    await page.goto(`/w/wrenfield/rules/${rule.id}`);
    await page.getByRole('button', { name: /^Take it live/ }).click();
    await dialog(page)
      .getByRole('button', { name: /^Take it live/ })
      .click();
    await expect(dialog(page).getByRole('alert')).toContainText('you are here as Rule writer');
    await dialog(page).getByLabel('What whoever approves should know').fill(note);
    await dialog(page).getByRole('button', { name: 'Ask somebody to approve it' }).click();
    await expect(dialog(page).getByText('It is asked for, and stands in Today')).toBeVisible();
  };

  await test.step('a rule writer asks; who approves refuses, saying why', async () => {
    await page.goto('/w/wrenfield/today');
    await actAs(page, 'Priya Ramanathan');
    await ask('Before the loans of March');
    await page.goto('/w/wrenfield/today');
    await expect(waiting(page).getByRole('listitem')).toContainText(`“${rule.name}” goes live`);
    await expect(waiting(page).getByRole('button', { name: 'Approve' })).toHaveCount(0);
    await actAs(page, 'Maren Oduya');
    await waiting(page).getByRole('button', { name: 'Refuse …' }).click();
    await dialog(page).getByLabel('Why').fill('The proofs say nothing of crates.');
    await dialog(page).getByRole('button', { name: 'Refuse it' }).click();
    await expect(waiting(page)).toHaveCount(0);
    await actAs(page, 'Priya Ramanathan');
    await expect(waiting(page)).toContainText('Refused by Maren Oduya: The proofs say nothing of crates.');
  });

  await test.step('asked again it is approved, which takes it live', async () => {
    await ask('With crates now');
    await page.goto('/w/wrenfield/today');
    await actAs(page, 'Maren Oduya');
    await waiting(page).getByRole('button', { name: 'Approve' }).click();
    await expect(page.getByText('It is approved, and done')).toBeVisible();
    await page.goto(`/w/wrenfield/rules/${rule.id}`);
    await expect(page.locator('header').getByText('Live')).toBeVisible();
  });

  await test.step('where a workspace wants two people nobody goes alone, and less of it is approved too', async () => {
    await page.goto('/w/wrenfield/settings');
    await actAs(page, 'Ines Valcourt');
    const wants = page.getByRole('checkbox', { name: 'Changes of the model' });
    await wants.click();
    await expect(page.getByText('From now on somebody else approves it')).toBeVisible();
    await page.getByRole('combobox', { name: 'What Maren Oduya may' }).click();
    await page.locator('.ant-select-item-option[title="Administrator"]').last().click();
    await expect(page.getByText('Maren Oduya is Administrator here now')).toBeVisible();
    await wants.click();
    const section = page.getByRole('region', { name: 'Two people' });
    await expect(section.getByRole('alert')).toContainText(
      'Here somebody else approves that less has to be approved',
    );
    await section.getByRole('button', { name: 'Ask somebody to approve it' }).click();
    await expect(section.getByText('It is asked for')).toBeVisible();
    await expect(wants).toBeChecked();
    await page.goto('/w/wrenfield/today');
    await actAs(page, 'Maren Oduya');
    await waiting(page)
      .getByRole('listitem')
      .filter({ hasText: 'Nobody else approves anything any more' })
      .getByRole('button', { name: 'Approve' })
      .click();
    await expect(page.getByText('It is approved, and done')).toBeVisible();
    await page.goto('/w/wrenfield/settings');
    await expect(wants).not.toBeChecked();
  });
});
