import { expect, type Page, test } from './test';

const EXHIBITION = 'Instruments of the Night';
const CLIMATE = `Climate requirement of ${EXHIBITION}`;
const dialog = (page: Page) => page.getByRole('dialog');

const API = '/api/v1/workspaces/wrenfield';

interface StoredRule {
  readonly id: string;
  readonly name: string;
  readonly version: number;
  readonly liveDefinition: unknown;
}

async function ruleNamed(page: Page, start: string): Promise<StoredRule> {
  const { rules } = (await (await page.request.get(`${API}/rules`)).json()) as { rules: StoredRule[] };
  return rules.find(({ name }) => name.startsWith(start))!;
}

/** Gives the exhibition another climate on the bench, and opens what may be kept of that. */
async function rehearse(page: Page): Promise<void> {
  await page.goto('/w/wrenfield/bench?type=exhibition');
  await expect(page.getByRole('button', { name: 'Keep …' })).toBeDisabled();
  await page.getByRole('button', { name: new RegExp(`^${CLIMATE}: .*Edit$`) }).click();
  await page.getByRole('textbox', { name: CLIMATE }).fill('18 °C');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Keep …' }).click();
  await page.getByRole('menuitem', { name: 'As a proof of a rule …' }).click();
}

async function keep(page: Page, name: string): Promise<void> {
  await expect(dialog(page).getByRole('button', { name: 'Keep it' })).toBeDisabled();
  await dialog(page).getByRole('textbox', { name: 'Name' }).fill(name);
  await dialog(page).getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByText(`“${name}” is kept; it holds.`)).toBeVisible();
}

test('rehearsals are kept as proofs; the rule shows which hold, what no proof would notice, and what came instead', async ({
  page,
}) => {
  const { id } = await ruleNamed(page, 'Climate requirement of loans');
  const proofs = page.getByRole('region', { name: 'Proofs' });
  const cases = proofs
    .getByRole('list')
    .filter({ has: page.getByRole('button', { name: /^Keep as proof: / }) });
  await test.step('what came of it, and what stayed, is proposed; what isn’t asked for is left out', async () => {
    await rehearse(page);
    const expected = dialog(page).getByRole('checkbox');
    await expect(expected).toHaveCount(6);
    for (const one of await expected.all()) await expect(one).toBeChecked();
    await expect(dialog(page).getByText('becomes 18 °C')).toHaveCount(5);
    await dialog(page)
      .getByRole('checkbox', { name: /telescopes stays/ })
      .click();
    await keep(page, 'Loans that aren’t declined');
  });

  await test.step('it holds, but doesn’t notice everything', async () => {
    await page.goto(`/w/wrenfield/rules/${id}`);
    await expect(proofs).toContainText('It holds');
    await expect(proofs).toContainText(/\d of 9 ways to change the rule a little would be noticed\./);
    await expect(cases).toContainText('without “Stage is not among Declined”');
  });

  await test.step('a proof of what the condition leaves out is kept from the bench', async () => {
    await proofs.getByRole('link', { name: 'Add one on the bench' }).click();
    await expect(page).toHaveURL(/\/w\/wrenfield\/bench\?type=exhibition/);
    await rehearse(page);
    await keep(page, 'A declined loan too');
    await page.goto(`/w/wrenfield/rules/${id}`);
    await expect(proofs).toContainText('All 2 hold');
    await expect(cases).not.toContainText('without “Stage is not among Declined”');
  });

  await test.step('cases that were made up are kept by a click each, until everything is noticed', async () => {
    const keepCase = proofs.getByRole('button', { name: /^Keep as proof: / });
    for (let kept = 3; (await keepCase.count()) > 0; kept += 1) {
      await keepCase.first().click();
      await expect(proofs).toContainText(`All ${kept} hold`);
      await expect(proofs.getByText(/ways to change the rule a little would be noticed/)).toBeVisible();
    }
    await expect(proofs).toContainText(
      '9 of 9 ways to change the rule a little would be noticed: all of them.',
    );
  });

  await test.step('of a changed rule it says what was expected and what came', async () => {
    await page.getByRole('button', { name: 'Remove the test on Stage' }).click();
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await expect(proofs).toContainText(/\d of \d hold/);
    await expect(proofs).toContainText(/telescopes should stay 20 °C.*; it was 18 °C\./);
    await expect(proofs.getByText('Cases to try')).toHaveCount(0);
  });

  await test.step('with the rule as it was they hold again, and can be removed', async () => {
    const { version, liveDefinition } = await ruleNamed(page, 'Climate requirement of loans');
    const [person] = (
      (await (await page.request.get(`${API}/people`)).json()) as { people: { id: string }[] }
    ).people;
    const answer = await page.request.patch(`${API}/rules/${id}`, {
      headers: { 'Oikon-Person': person!.id },
      data: { version, definition: liveDefinition },
    });
    expect(answer.ok()).toBe(true);
    await page.reload();
    await expect(proofs).toContainText(/All \d hold/);
    const remove = proofs.getByRole('button', { name: /^Remove the proof / });
    for (let left = await remove.count(); left > 0; left -= 1) {
      await remove.first().click();
      await page.getByRole('button', { name: 'Remove it' }).last().click();
      await expect(remove).toHaveCount(left - 1);
    }
    await expect(proofs).toContainText('No proof covers this rule.');
  });
});

test('of a case to try something else is expected: the proof says so until the rule gives it', async ({
  page,
}) => {
  const { id } = await ruleNamed(page, 'Average fee');
  await page.goto(`/w/wrenfield/rules/${id}`);
  const proofs = page.getByRole('region', { name: 'Proofs' });
  await expect(proofs).toContainText(
    /0 of \d+ ways to change the rule a little would be noticed, as it has no proof\./,
  );
  const first = proofs.getByRole('listitem').filter({ hasText: 'Average fee of Exhibition' }).first();
  await first.getByRole('button', { name: 'That’s wrong' }).click();
  await first.getByRole('textbox').first().fill('987.65');
  await first.getByRole('button', { name: /^Keep as proof: / }).click();
  await expect(page.getByText(/is kept\. It doesn’t hold until the rule gives that\./)).toBeVisible();
  await expect(proofs).toContainText('0 of 1 hold');
  await expect(proofs).toContainText(/should become 987\.65 GBP; it was/);
  await proofs.getByRole('button', { name: /^Remove the proof / }).click();
  await page.getByRole('button', { name: 'Remove it' }).last().click();
  await expect(proofs).toContainText('No proof covers this rule.');
});

test('a rule goes live although a proof doesn’t hold only with a reason, which its versions keep; the earlier one is taken back', async ({
  page,
}) => {
  const { id } = await ruleNamed(page, 'Loans due soon');
  await page.goto(`/w/wrenfield/rules/${id}`);
  const proofs = page.getByRole('region', { name: 'Proofs' });
  const versions = page.getByRole('region', { name: 'Versions' });
  await expect(proofs).toContainText(/All \d hold/);
  await expect(proofs).toContainText(
    /(\d+) of \1 ways to change the rule a little would be noticed: all of them\./,
  );
  await page.getByRole('button', { name: 'Remove the test on Stage' }).click();
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(proofs).toContainText(
    'None counts: Loans due soon of Exhibition A becomes 0, not 1 doesn’t hold',
  );
  await page.goto('/w/wrenfield/rules');
  await expect(page.getByText(/\d of \d proofs doesn’t hold/)).toHaveCount(1);
  await page.goto(`/w/wrenfield/rules/${id}`);
  await proofs.getByRole('link', { name: /^None counts/ }).click();
  const opened = page.getByRole('region', { name: 'The proof' });
  await expect(opened).toContainText('Loans due soon of Exhibition A should become 0; it was 1.');
  await expect(page.getByRole('region', { name: 'Ripple' })).toContainText('Stage of Loan A');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(opened).toContainText('this isn’t the proof as it is kept');
  await page.goto(`/w/wrenfield/rules/${id}`);

  await page.getByRole('button', { name: 'Take the change live …' }).click();
  const take = dialog(page).getByRole('button', { name: 'Take it live' });
  await expect(dialog(page)).toContainText('Loans due soon of Exhibition A should become 0; it was 1.');
  await expect(take).toBeDisabled();
  await dialog(page)
    .getByRole('textbox', { name: 'Why it should go live all the same' })
    .fill('Returned ones too');
  await take.click();
  await expect(versions).toContainText(/proofs held\. Why all the same: “Returned ones too”/);
  await expect(versions.locator('del')).toHaveText('Stage is Agreed and');

  await versions.getByRole('button', { name: 'Take version 1 back' }).click();
  await expect(page.getByRole('button', { name: 'Remove the test on Stage' })).toBeVisible();
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(proofs).toContainText(/All \d hold/);
  await page.getByRole('button', { name: 'Take the change live …' }).click();
  await expect(dialog(page)).toContainText(/All \d proofs hold\./);
  await take.click();
  await expect(versions).toContainText('Version 3');
  await expect(versions).toContainText(/all \d proofs held/);

  await versions.getByRole('link', { name: 'Compare version 2 on the bench' }).click();
  await expect(
    page.getByText(/^Version 2 takes part in place of the rule as it is: On every Exhibition/),
  ).toBeVisible();
  await expect(page.getByRole('region', { name: 'Ripple' })).toContainText(/No difference|Today’s rules/);
});

test('several saves are staged one after the other, and kept as a proof of as many', async ({ page }) => {
  const { id } = await ruleNamed(page, 'Artefact count of exhibitions');
  const ripple = page.getByRole('region', { name: 'Ripple' });
  await page.goto('/w/wrenfield/bench?type=exhibition');
  await page.getByRole('button', { name: 'Delete Collection Sørvåg, clocks' }).click();
  await page.getByRole('button', { name: 'Next save' }).click();
  await page.getByRole('region', { name: 'In the bin' }).getByRole('button', { name: 'Restore' }).click();
  await expect(ripple.getByRole('region', { name: 'Save 2' })).toContainText('Collection Sørvåg, clocks');
  await expect(ripple.getByRole('region', { name: 'Save 2' })).toContainText('Artefact count');
  await expect(page.getByRole('region', { name: 'In the bin' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Keep …' }).click();
  await page.getByRole('menuitem', { name: 'As a proof of a rule …' }).click();
  await dialog(page)
    .getByRole('combobox', { name: 'Proof of the rule' })
    .fill('Artefact count of exhibitions');
  await page.keyboard.press('Enter');
  await keep(page, 'Taken out and put back');
  await page.goto(`/w/wrenfield/rules/${id}`);
  await page
    .getByRole('region', { name: 'Proofs' })
    .getByRole('link', { name: 'Taken out and put back' })
    .click();
  await expect(page.getByRole('region', { name: 'The proof' })).toContainText('It holds');
  await expect(ripple.getByRole('region', { name: 'Save 2' })).toBeVisible();
});
