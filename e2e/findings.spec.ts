import { expect, type Page, test } from './test';
import { api, headers as asPerson } from './records';

interface StoredRule {
  readonly id: string;
  readonly name: string;
  readonly state: string;
  readonly definition: object;
}

async function rulesOf(page: Page): Promise<StoredRule[]> {
  return ((await (await page.request.get(`${api}/rules`)).json()) as { rules: StoredRule[] }).rules;
}

test('where another rule keeps the same field that one is paused by a press, once it is confirmed', async ({
  page,
}) => {
  const headers = await asPerson(page);
  const other = (await rulesOf(page)).find(
    ({ name, state }) => state === 'live' && name.startsWith('Artefacts that need'),
  )!;
  const made = await page.request.post(`${api}/rules`, {
    headers,
    data: { name: 'The same once more', definition: other.definition },
  });
  const { id } = (await made.json()) as StoredRule;
  await page.goto(`/w/wrenfield/rules/${id}`);
  await expect(page.getByText(/is kept by “.*” already/)).toBeVisible();
  await page.getByRole('button', { name: `Pause “${other.name}”` }).click();
  await expect(page.getByText('Its values stand still, and people may enter them')).toBeVisible();
  await page.getByRole('button', { name: 'Pause it' }).click();
  await expect(page.getByText('It is paused. Its values stand still.')).toBeVisible();
  await expect(page.getByText(/is kept by “.*” already/)).toHaveCount(0);
  expect((await rulesOf(page)).find((one) => one.id === other.id)!.state).toBe('paused');

  const live = { headers, data: { state: 'live' } };
  expect((await page.request.post(`${api}/rules/${other.id}/state`, live)).ok()).toBe(true);
  expect((await page.request.delete(`${api}/rules/${id}`, { headers })).ok()).toBe(true);
});

test('the list of rules says how many changes of each its proofs notice, once that is asked', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/rules');
  const exhibitions = page.getByRole('region', { name: 'Rules on Exhibitions' });
  await expect(exhibitions.getByText(/proofs hold$/).first()).toBeVisible();
  await page.getByRole('button', { name: 'How strong are the proofs?' }).click();
  await expect(exhibitions.getByText(/\d of \d+ changes noticed/).first()).toBeVisible({ timeout: 300_000 });
  await page.getByRole('button', { name: 'Stop' }).click();
  await expect(page.getByRole('button', { name: 'How strong are the proofs?' })).toBeVisible();
});
