import { expect, type Page, test } from './test';
import { v7 as newId } from 'uuid';
import { headers } from './records';
import { choose } from './sentence';

const example = (page: Page) => page.getByRole('region', { name: 'Worked example' });

async function open(page: Page, type: string, title: string): Promise<void> {
  await page.goto(`/w/wrenfield/records/${type}`);
  await page
    .getByPlaceholder(/^Search/)
    .first()
    .fill(title);
  await page.getByRole('link', { name: title }).first().click();
  await expect(page.getByRole('heading', { name: title })).toBeVisible();
}

async function pick(page: Page, field: string, option: string): Promise<void> {
  await page.getByRole('combobox', { name: field, exact: true }).click();
  await page.getByTitle(option, { exact: true }).last().click();
}

test('a cascade is written by keyboard and menu: kept in step, with a field of the same name proposed at once', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/rules/new');
  await page.getByText('Cascade', { exact: true }).click();
  await choose(page, 'Type of record that cascades', 'Shipment');
  await choose(page, 'Records that take the values', /^its Crates/);
  await page.getByRole('button', { name: /^When/ }).focus();
  await page.keyboard.press('Enter');
  await page.getByRole('radio', { name: 'kept in step: always equal' }).check();
  await page.getByRole('button', { name: 'Done' }).click();

  await test.step('only fields of the records that take something are offered, and what doesn’t fit isn’t', async () => {
    await choose(page, 'Add a field', /^Stamp/);
    await choose(page, 'What Stamp takes', /^Carrier/);
    await expect(page.getByRole('table', { name: 'What is cascaded' })).toContainText('Carrier');
  });

  await test.step('another rule cascades to that field already, which is said', async () => {
    await expect(page.getByText(/Stamp of Crate is kept by “Stamp of crates/)).toBeVisible();
    await page.getByRole('button', { name: 'Leave Stamp out' }).click();
  });

  await test.step('a row is switched off without being lost', async () => {
    await choose(page, 'Add a field', /^Declared cover/);
    await choose(page, 'What Declared cover takes', /^Limit/);
    await page.getByRole('checkbox', { name: 'Declared cover is cascaded' }).uncheck();
    await expect(page.getByText('Assign at least one field.')).toBeVisible();
    await page.getByRole('checkbox', { name: 'Declared cover is cascaded' }).check();
  });

  await test.step('the example shows who would be brought in step by a change', async () => {
    await expect(example(page).getByText('Would be brought in step')).toBeVisible();
    await expect(example(page).getByRole('status')).toContainText(/\d+ of \d+/);
  });
  await page.getByRole('button', { name: 'Save as draft' }).click();
  await expect(page).toHaveURL(/\/rules\/[0-9a-f-]{36}$/);
});

test('the coordinator goes to all loans, whoever had them; later changes of a person stand', async ({
  page,
}) => {
  await open(page, 'exhibition', 'The Mapmaker’s Table');
  const current = await page
    .locator('#field-coordinator')
    .textContent()
    .catch(() => null);
  expect(current).not.toBe('Callum Reyes');
  await pick(page, 'Coordinator', 'Callum Reyes');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText(/^Saved\. It followed/)).toBeVisible();
  await expect(
    page.getByRole('button', {
      name: 'Rule of Coordinator before: “Coordinator before of exhibitions” may cascade a value to it.',
    }),
  ).toBeVisible();
  await page.getByRole('region', { name: 'Loans' }).getByRole('row').getByRole('link').first().click();
  const form = page.getByRole('form', { name: 'Fields' });
  await expect(form).toContainText('Callum Reyes');
  await expect(form.getByRole('button', { name: /may cascade a value to it\.$/ }).first()).toBeVisible();
  const history = page.getByRole('region', { name: 'History' });
  await expect(history).toContainText('Coordinator of The Mapmaker’s Table');
});

test('what is kept in step can’t be entered where it applies, and may be where it doesn’t', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/rules');
  await page.getByRole('listitem').filter({ hasText: 'kept in step' }).first().getByRole('link').click();
  await expect(example(page).getByText('Would be brought in step')).toBeVisible();
  await expect(
    example(page)
      .getByText(/fails “Stage is not among Declined”: here Declined/)
      .first(),
  ).toBeVisible();
  await open(page, 'loan', 'Calder Vale Museum, printing blocks');
  await expect(
    page.getByRole('button', { name: /keeps this in step elsewhere, not on this record\.$/ }),
  ).toBeVisible();
  await page.getByRole('textbox', { name: 'Climate requirement' }).fill('Our own');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText(/^Saved\./)).toBeVisible();
  await open(page, 'loan', 'Thornwick Castle, court robes');
  await expect(page.getByRole('textbox', { name: 'Climate requirement' })).toHaveCount(0);
  await page.getByRole('button', { name: /^Climate requirement: / }).click();
  await expect(page.getByRole('dialog')).toContainText(
    'From every Exhibition to its Loans where Stage is not among Declined, kept in step',
  );
});

test('a change of options goes up over a table; the example tries another change and says why nothing follows', async ({
  page,
}) => {
  await page.goto('/w/wrenfield/rules');
  await page.getByRole('listitem').filter({ hasText: 'Dealings by Stage' }).getByRole('link').click();
  await expect(example(page).getByText('Would take it')).toBeVisible();
  await page.getByRole('button', { name: /^Table for Dealings/ }).click();
  await expect(page.getByRole('columnheader', { name: 'Dealings becomes' })).toBeVisible();
  await page.getByRole('button', { name: 'Done' }).click();
  await example(page).getByRole('combobox', { name: 'Stage in the example' }).click();
  await page.getByTitle('Returned', { exact: true }).last().click();
  await expect(example(page).getByRole('cell', { name: /Past/ })).toBeVisible();
  await example(page).getByRole('combobox', { name: 'Stage in the example' }).click();
  await page.getByTitle('Declined', { exact: true }).last().click();
  await expect(example(page).getByText('stays as it is')).toBeVisible();
});

test('paused and taken live again, a cascade acts from then', async ({ page }) => {
  await page.goto('/w/wrenfield/rules');
  await page
    .getByRole('listitem')
    .filter({ hasText: 'when Label languages changes' })
    .getByRole('link')
    .click();
  await page.getByRole('button', { name: 'Pause' }).click();
  await expect(page.getByText('Paused: it changes nothing.')).toBeVisible();
  await page.getByRole('button', { name: 'Take it live …' }).click();
  await expect(page.getByRole('radio', { name: 'Only on what comes from now on' })).toBeChecked();
  await page.getByRole('dialog').getByRole('button', { name: 'Take it live', exact: true }).click();
  await expect(
    page.getByText('Live: it cascades from now on. People may edit the fields too.'),
  ).toBeVisible();
});

test.describe('in a workspace of its own', () => {
  let place = '';
  let name = '';
  test.beforeEach(async ({ page }) => {
    name = `Very many ${Date.now()}`;
    const made = await page.request.post('/api/v1/workspaces', {
      headers: await headers(page),
      data: { name, copyOf: 'wrenfield', withRecords: true },
    });
    expect(made.ok()).toBe(true);
    place = ((await made.json()) as { key: string }).key;
  });
  test.afterEach(async ({ page }) => {
    await page.request.delete(`/api/v1/workspaces/${place}`, {
      ...{ headers: await headers(page), data: { confirmation: name } },
    });
  });

  const post = async (page: Page, path: string, data: object) => {
    const answer = await page.request.post(`/api/v1/workspaces/${place}${path}`, {
      headers: await headers(page),
      data,
    });
    expect(answer.ok()).toBe(true);
    return (await answer.json()) as { id: string; ids: string[] };
  };

  test('where very many records follow a person is told first, and may have it saved soon after', async ({
    page,
  }) => {
    const exhibition = newId();
    const loans = Array.from({ length: 1_010 }, (_, at) => ({
      ...{ kind: 'create', type: 'loan' },
      values: { title: `Banner ${at}`, exhibition, lender: null, stage: 'requested' },
    }));
    const institutions = await page.request.get(`/api/v1/workspaces/${place}/records/institution?limit=1`);
    const [lender] = ((await institutions.json()) as { records: { id: string }[] }).records;
    await post(page, '/changes', {
      edits: [
        {
          kind: 'create',
          type: 'exhibition',
          id: exhibition,
          values: { title: 'A thousand banners', stage: 'proposed' },
        },
        ...loans.map((loan) => ({ ...loan, values: { ...loan.values, lender: lender!.id } })),
      ],
    });
    await page.goto(`/w/${place}/records/exhibition/${exhibition}`);
    await pick(page, 'Coordinator', 'Priya Ramanathan');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    const dialog = page.getByRole('dialog', { name: 'This reaches very many records' });
    await expect(dialog).toContainText('would go over 1,010 Loans');
    await dialog.getByRole('button', { name: 'Go back' }).click();
    await expect(page.getByText('Coordinator changed, not saved yet.')).toBeVisible();
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await dialog.getByRole('button', { name: 'Save soon after' }).click();
    await expect(page.getByText('It is saved soon after. Until then it waits in Today.')).toBeVisible();
    await expect
      .poll(async () => {
        const found = await page.request.get(
          `/api/v1/workspaces/${place}/records/loan?limit=1&search=Banner 1009`,
        );
        return ((await found.json()) as { records: { values: { coordinator: string | null } }[] }).records[0]!
          .values.coordinator;
      })
      .not.toBeNull();

    await test.step('one that was refused by then stands in Today with why, and can be dropped', async () => {
      await page.request.patch(`/api/v1/workspaces/${place}/records/exhibition/${exhibition}`, {
        headers: await headers(page),
        data: { version: 1, values: { climate: 'Dry' }, many: 'soonAfter' },
      });
      await page.goto(`/w/${place}/today`);
      const waiting = page.getByRole('region', { name: 'Saves that wait' });
      await expect(waiting).toContainText('Climate requirement of A thousand banners');
      await expect(waiting).toContainText('was changed by somebody else');
      await waiting.getByRole('button', { name: 'Drop …' }).click();
      await page.getByRole('button', { name: 'Drop it' }).click();
      await expect(waiting).toBeHidden();
    });
  });

  test('of two rules on one field it is said which comes first, and a circle that settles is told', async ({
    page,
  }) => {
    const when = (test: object) => ({ kind: 'onChange', where: null, tests: [test] });
    const from = (field: string) => ({
      target: 'coordinator',
      value: { kind: 'expression', expression: { kind: 'field', route: [], field } },
    });
    const common = { kind: 'cascade', condition: null, pace: 'withTheSave' };
    const opens = await post(page, '/rules', {
      name: 'Coordinator is the curator',
      definition: {
        ...{
          ...common,
          type: 'exhibition',
          route: [{ direction: 'down', type: 'loan', link: 'exhibition' }],
        },
        ...{
          moment: when({ kind: 'changed', field: 'curator' }),
          assignments: [from('curator')],
        },
      },
    });
    await page.goto(`/w/${place}/rules/${opens.id}`);
    await expect(page.getByText(/Coordinator of Loan is also written by/)).toBeVisible();
    await choose(page, 'Where it comes among rules that write the same', 'first');
    await expect(page.getByText(/Coordinator of Loan is also written by/)).toBeHidden();
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await page.getByRole('button', { name: 'Take it live …' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByText('Also at once, on the records that match already').click();
    await dialog.getByRole('button', { name: /^Take it live and change/ }).click();
    await expect(page.getByText(/^Live\. \d+ Loans? changed\./)).toBeVisible();

    const back = await post(page, '/rules', {
      name: 'Coordinator back to the exhibition',
      definition: {
        ...{ ...common, type: 'loan', route: [{ direction: 'up', link: 'exhibition' }] },
        ...{ moment: when({ kind: 'changed', field: 'coordinator' }), assignments: [from('coordinator')] },
      },
    });
    await page.goto(`/w/${place}/rules/${back.id}`);
    await expect(
      page.getByText(/These rules run in a circle: .* A save goes round until nothing follows/),
    ).toBeVisible();
    await expect(page.getByRole('button', { name: 'Take it live …' })).toBeEnabled();
  });
});

test('kept in step from several, the sentence says which comes first', async ({ page }) => {
  await page.goto('/w/wrenfield/rules/new');
  await page.getByText('Cascade', { exact: true }).click();
  await choose(page, 'Type of record that cascades', 'Exhibition');
  await choose(page, 'Records that take the values', /^the Couriers of its/);
  await page.getByRole('button', { name: /^When/ }).click();
  await page.getByRole('radio', { name: 'kept in step: always equal' }).check();
  await page.getByRole('button', { name: 'Done' }).click();
  await expect(page.getByText('Of them cascades')).toBeVisible();
  await choose(page, 'By what several are put in order', /^Closes/);
  await choose(page, 'Add a field', /^E-mail/);
  await choose(page, 'What E-mail takes', /^Title/);
  await expect(example(page).getByText('Would be brought in step')).toBeVisible();
});

test('a value that several may cascade to opens into all of them, and which comes first', async ({
  page,
}) => {
  await open(page, 'courier', 'Wilhelmina Starke');
  await page
    .getByRole('button', { name: /^Latest exhibition: .* Open what it is made of/ })
    .first()
    .click();
  const opened = page.getByRole('dialog');
  await expect(opened.getByRole('columnheader', { name: 'Which comes first' })).toBeVisible();
  await expect(opened.getByText('comes first', { exact: true })).toHaveCount(1);
});
