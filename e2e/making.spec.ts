import { expect, type Page, test } from './test';
import { api, headers, records } from './records';
import { choose } from './sentence';

const example = (page: Page) => page.getByRole('region', { name: 'Worked example' });

test('a create rule is written as a sentence; the example shows what would be made, and for whom nothing', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/rules/new');
  await page.getByText('Create', { exact: true }).click();
  await choose(page, 'Type of record for which one is made', 'Inspection');
  await choose(page, 'What is made', 'Status sheet');
  await expect(page.getByRole('table', { name: 'What is cascaded' })).toContainText('Title');

  await test.step('what must be entered is asked for, and what fits is there at once', async () => {
    await page.getByRole('button', { name: 'Leave Title out' }).click();
    await expect(page.getByText(/Title of Status sheet must be entered: assign it/)).toBeVisible();
    await choose(page, 'Add a field', /^Title/);
    await choose(page, 'Add a field', /^Day/);
    await choose(page, 'What Day takes', /^Completed on/);
  });
  await expect(example(page).getByRole('status')).toContainText('A Status sheet would be made at once');

  await test.step('it may go by an option of the record', async () => {
    await page.getByRole('button', { name: /^How it is made/ }).click();
    await page.getByRole('radio', { name: 'by an option of the record' }).check();
    await page.getByRole('button', { name: 'Done' }).click();
    await expect(page.getByRole('button', { name: /^How it is made: by/ })).toBeVisible();
  });
  await page.getByRole('button', { name: 'Save as draft' }).click();
  await expect(page).toHaveURL(/\/rules\/[0-9a-f-]{36}$/);
  await page.getByRole('button', { name: 'Delete' }).click();
  await page.getByRole('button', { name: 'Delete the draft' }).click();
  await expect(page).toHaveURL(/\/rules$/);
});

test('an inspection that finds damage makes a treatment, once; its page and its history say why', async ({
  page,
}) => {
  const sound = (await records(page, 'inspection')).find(
    ({ values }) => values.artefact && values.outcome === 'sound' && values.byPhoto === false,
  )!;
  await page.goto(`/w/wrenfield/records/inspection/${sound.id}`);
  await expect(page.getByRole('button', { name: 'Make a Treatment …' })).toBeDisabled();
  await page.getByRole('combobox', { name: 'Outcome' }).click();
  await page.getByTitle('Damage', { exact: true }).last().click();
  await page.getByRole('textbox', { name: 'Finding' }).fill('A corner is torn.');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText(/Saved\. It followed: Treatment “Treat .*” is created/)).toBeVisible();
  await page.getByRole('button', { name: 'Open the Treatment' }).click();
  await expect(page.getByRole('textbox', { name: 'Finding' })).toHaveValue('A corner is torn.');
  await expect(page.getByRole('region', { name: 'Where it comes from' })).toContainText(
    'Treatment of what is damaged',
  );
  await expect(page.getByRole('region', { name: 'History' })).toContainText(
    '“Treatment of what is damaged” made this record',
  );
});

test('by its button a person makes one from the filled form, and nothing is saved before', async ({
  page,
}) => {
  const rules = (await (await page.request.get(`${api}/rules`)).json()) as {
    rules: { id: string; name: string }[];
  };
  const rule = rules.rules.find(({ name }) => name === 'Treatment of what is damaged')!;
  const by = await headers(page);
  const setState = (state: string) =>
    page.request.post(`${api}/rules/${rule.id}/state`, { data: { state }, headers: by });
  await setState('paused');
  const sound = (await records(page, 'inspection')).find(
    ({ values }) => values.artefact && values.outcome === 'watch' && values.byPhoto === false,
  )!;
  const changed = await page.request.patch(`${api}/records/inspection/${sound.id}`, {
    ...{ data: { version: sound.version, values: { outcome: 'damage' } }, headers: by },
  });
  expect(changed.ok()).toBe(true);
  await setState('live');
  await page.goto(`/w/wrenfield/records/inspection/${sound.id}`);
  await page.getByRole('button', { name: 'Make a Treatment …' }).click();
  await expect(page.getByRole('heading', { name: 'A new treatment' })).toBeVisible();
  await expect(page.getByText(/Nothing is saved yet\./)).toBeVisible();
  await expect(page.getByRole('textbox', { name: 'Title' })).toHaveValue(/^Treat /);
  await page.getByRole('textbox', { name: 'Finding' }).fill('Asked for by hand.');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByRole('region', { name: 'Where it comes from' })).toContainText('Made for');
});

test('Today: a proposal is changed and approved, one is refused for a reason, several at a time', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/today');
  const list = page.getByRole('region', { name: 'What waits' });
  const panel = page.getByRole('region', { name: 'The proposal' });
  await list.getByRole('button', { name: /An Insurance line for Bridle band/ }).click();
  await expect(panel).toContainText('Insurance line of what is valuable');
  await expect(panel.getByRole('heading', { name: 'What would follow', exact: true })).toBeVisible();
  await expect(panel).toContainText(/IL-\d{4}/);

  await test.step('changed first', async () => {
    await panel.getByRole('textbox', { name: 'Maker as it would become' }).fill('Somebody else');
    await panel.getByRole('button', { name: 'Approve as changed' }).click();
    await expect(page.getByText('Approved.')).toBeVisible();
    await expect(list.getByText('An Insurance line for Bridle band')).toHaveCount(0);
  });

  await test.step('refused, which asks why', async () => {
    await list.getByRole('button', { name: /An Insurance line for Sash of twisted cord/ }).click();
    await panel.getByRole('button', { name: 'Refuse …' }).click();
    const dialog = page.getByRole('dialog');
    await expect(dialog.getByRole('button', { name: 'Refuse it' })).toBeDisabled();
    await dialog.getByRole('textbox', { name: 'Why not' }).fill('It is insured elsewhere.');
    await dialog.getByRole('button', { name: 'Refuse it' }).click();
    await expect(page.getByText('Refused.')).toBeVisible();
  });

  await test.step('several at once', async () => {
    await list.getByRole('checkbox', { name: /Girdle with jade hooks/ }).check();
    await list.getByRole('checkbox', { name: /Pair of embroidered cuffs/ }).check();
    await list.getByRole('button', { name: 'Approve 2' }).click();
    await expect(page.getByText('2 approved.')).toBeVisible();
    await expect(list.getByText('Girdle with jade hooks')).toHaveCount(0);
  });

  await test.step('what was decided stands with its reason and its run', async () => {
    await page.getByText('Decided', { exact: true }).click();
    const decided = page.getByRole('region', { name: 'What was decided' });
    await expect(decided.getByRole('row', { name: /Sash of twisted cord/ })).toContainText(
      'Refused: It is insured elsewhere.',
    );
    await expect(decided.getByRole('row', { name: /Bridle band/ })).toContainText(/Approved in run \d+/);
  });
});

test('on the bench a staged edit shows what would be made, and saves nothing', async ({ page }) => {
  const before = (await records(page, 'insuranceLine')).length;
  const piece = (await records(page, 'artefact')).find(({ values }) => values.objectKind === 'ceramic')!;
  const answer = await page.request.post(`${api}/rehearsals`, {
    data: {
      edits: [
        {
          ...{ kind: 'edit', type: 'artefact', id: piece.id },
          values: { objectKind: 'instrument', agreedValue: { amount: '90000.00', currency: 'GBP' } },
        },
      ],
    },
  });
  const { ripple } = (await answer.json()) as {
    ripple: { waves: { changes: { kind: string; typeName: string }[] }[] };
  };
  expect(ripple.waves.flatMap(({ changes }) => changes)).toContainEqual(
    expect.objectContaining({ kind: 'created', typeName: 'Insurance line' }),
  );
  expect((await records(page, 'insuranceLine')).length).toBe(before);
});

test('who is in charge was written to, and the message is there to be read', async ({ page }) => {
  await page.goto('/w/wrenfield/today');
  await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible();
  await expect(page.getByText(/are to be seen|wait for approval|Nothing waits/).first()).toBeVisible();
  await page.getByText('Messages', { exact: true }).click();
  const row = page
    .getByRole('region', { name: 'Messages' })
    .getByRole('row', { name: /Callum Reyes/ })
    .first();
  await expect(row).toContainText('Insurance line of what is valuable');
});
