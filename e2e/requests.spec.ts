import { addressOf, expect, type Page, test } from './test';
import { choose } from './sentence';

const dialog = (page: Page) => page.getByRole('dialog');
const region = (page: Page, name: string) => page.getByRole('region', { name, exact: true });

const REQUEST = 'Larger fees of an exhibition';
const POINT = 'A fee of exactly 5,000 counts';
const EXHIBITION = 'Rivers of Silk';

/** Takes everything that hangs on the request away again, so that others begin as the demo does. */
test.afterAll(async ({ browser }) => {
  const page = await browser.newPage();
  const api = `${addressOf(test.info().parallelIndex)}/api/v1/workspaces/wrenfield`;
  const read = async <T>(path: string) => (await (await page.request.get(`${api}${path}`)).json()) as T;
  const [person] = (await read<{ people: { id: string }[] }>('/people')).people;
  const headers = { 'Oikon-Person': person!.id };
  const { requests } = await read<{ requests: { id: string; name: string; rules: { id: string }[] }[] }>(
    '/requests',
  );
  for (const { id, rules } of requests.filter(({ name }) => name === REQUEST)) {
    for (const rule of rules)
      await page.request.post(`${api}/rules/${rule.id}/state`, { headers, data: { state: 'paused' } });
    await page.request.delete(`${api}/requests/${id}`, { headers });
  }
  await page.close();
});

test('from a request through a rule that is wrong at its limit, found by what no proof would notice, to a pilot, live, and the sheet', async ({
  page,
}) => {
  const proofs = region(page, 'Proofs');
  let before: readonly number[] = [];

  await test.step('what was asked for is written down', async () => {
    await page.goto('/w/wrenfield/rules');
    const requests = page.getByRole('link', { name: /^Requests: \d+ of \d+ met$/ });
    before = ((await requests.textContent()) ?? '').match(/\d+/g)!.map(Number);
    await requests.click();
    await page.getByRole('button', { name: 'Write a request down' }).click();
    await dialog(page).getByRole('textbox', { name: 'Name' }).fill(REQUEST);
    await dialog(page).getByRole('textbox', { name: 'Asked by' }).fill('Odile Marchetti, insurer');
    await dialog(page)
      .getByRole('textbox', { name: 'In their words' })
      .fill(
        'What do the fees of 5,000 and more come to, on each exhibition? Put it where the insured total was.',
      );
    await dialog(page).getByRole('button', { name: 'Write it down' }).click();
    await expect(region(page, 'How it stands')).toContainText('No rule is written for it yet.');
    await page.getByRole('button', { name: 'Add a point' }).click();
    await page.getByRole('textbox', { name: 'Point 1' }).fill(POINT);
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await expect(region(page, 'How it stands')).toContainText(`No proof shows it yet: ${POINT}`);
  });
  const request = page.url();

  await test.step('a rule is written for it, with the wrong limit', async () => {
    await page.getByRole('link', { name: 'Write one' }).click();
    await expect(page.getByText(`For the request ${REQUEST}`)).toBeVisible();
    await choose(page, 'Type of record', 'Exhibition');
    await choose(page, 'Aggregate', /^sum/);
    await choose(page, 'Records that are brought together', /^Loans/);
    await choose(page, 'Value that is brought together', /^Fee/);
    await choose(page, 'Field that is kept', /^Insured total/);
    await choose(page, 'Add a test on', /^Fee/);
    await choose(page, 'Test:', /^is more than/);
    await page.getByRole('button', { name: /^Compared with/ }).click();
    await page.getByRole('textbox', { name: 'Value' }).fill('5000');
    await page.getByRole('button', { name: 'Done' }).click();
    await page.getByRole('button', { name: 'Save as draft' }).click();
    await expect(page.getByText(/Asked for in/)).toBeVisible();
    await expect(page.getByRole('link', { name: REQUEST })).toBeVisible();
  });
  const rule = page.url();

  await test.step('a proof is kept; what it wouldn’t notice is listed, the limit among it', async () => {
    await proofs
      .getByRole('button', { name: /^Keep as proof: On the limit/ })
      .first()
      .click();
    await expect(proofs).toContainText('It holds');
    await expect(proofs).toContainText(/\d of \d+ ways to change the rule a little would be noticed\./);
  });

  await test.step('exactly on the limit the rule gives what isn’t meant: that is said, and kept', async () => {
    const onLimit = proofs.getByRole('listitem').filter({ hasText: 'Fee 5,000.00 GBP' }).first();
    await expect(onLimit).toContainText(/Insured total of Exhibition [AB] is 0\.00 GBP, not 5,000\.00 GBP/);
    await onLimit.getByRole('button', { name: 'That’s wrong' }).click();
    await onLimit.getByRole('textbox').first().fill('5000');
    await onLimit.getByRole('button', { name: /^Keep as proof: / }).click();
    await expect(proofs).toContainText('1 of 2 hold');
  });

  await test.step('with the right limit both hold, and the others are kept until everything is noticed', async () => {
    await choose(page, 'Test:', /^is at least/);
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await expect(proofs).toContainText('All 2 hold');
    const keepCase = proofs.getByRole('button', { name: /^Keep as proof: / });
    const told = proofs.getByText(/ways to change the rule a little would be noticed/);
    await expect(told).toBeVisible();
    for (let kept = 3; (await keepCase.count()) > 0; kept += 1) {
      await keepCase.first().click();
      await expect(proofs).toContainText(`All ${kept} hold`);
      await expect(told).toBeVisible();
    }
    await expect(proofs).toContainText(/(\d+) of \1 ways to change the rule a little would be noticed/);
  });

  await test.step('a proof shows the point; the rule isn’t live yet', async () => {
    await page.goto(request);
    await page.getByRole('combobox', { name: 'Proofs that show point 1' }).click();
    await page
      .locator('.ant-select-item-option')
      .filter({ hasText: 'What the condition asks' })
      .first()
      .click();
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await expect(region(page, 'How it stands')).toContainText('isn’t live yet.');
    await expect(region(page, 'How it stands')).not.toContainText('No proof shows it yet');
  });

  await test.step('it begins as a pilot: elsewhere people go on entering the field', async () => {
    await page.goto(rule);
    await page.getByRole('button', { name: 'Take it live …' }).click();
    await expect(dialog(page)).toContainText(/\d of 6 Exhibitions would change in Insured total/);
    await dialog(page).getByRole('radio', { name: 'As a pilot, for some Exhibitions' }).check();
    await expect(dialog(page).getByRole('button', { name: 'Start the pilot' })).toBeDisabled();
    await dialog(page).getByRole('combobox', { name: 'Exhibitions of the pilot' }).click();
    await page.getByTitle(EXHIBITION, { exact: true }).last().click();
    await page.keyboard.press('Escape');
    await expect(dialog(page)).toContainText('1 of 6 Exhibitions would change in Insured total');
    await dialog(page).getByRole('button', { name: 'Start the pilot and fill 1 Exhibition' }).click();
    await expect(page.getByText('A pilot. 1 Exhibition changed.')).toBeVisible();
    await expect(page.locator('header').getByText('Pilot', { exact: true })).toBeVisible();
    await page.goto(request);
    await expect(region(page, 'How it stands')).toContainText('runs as a pilot only');
    const input = page.getByRole('textbox', { name: 'Insured total' });
    await page.goto('/w/wrenfield/records/exhibition');
    await page.getByRole('link', { name: EXHIBITION }).click();
    await expect(page.getByRole('heading', { name: EXHIBITION })).toBeVisible();
    await expect(page.getByRole('textbox', { name: 'Title' })).toBeVisible();
    await expect(input).toHaveCount(0);
    await page.goto('/w/wrenfield/records/exhibition');
    await page.getByRole('link', { name: 'Painted Sails' }).click();
    await expect(input).toBeEditable();
  });

  await test.step('then for all; every change leaves as a file first', async () => {
    await page.goto(rule);
    await page.getByRole('button', { name: 'From pilot to live …' }).click();
    await expect(dialog(page)).toContainText(/\d of 6 Exhibitions would change in Insured total/);
    const saved = page.waitForEvent('download');
    await dialog(page).getByRole('button', { name: 'All changes as CSV' }).click();
    expect((await saved).suggestedFilename()).toBe('changes.csv');
    await dialog(page)
      .getByRole('button', { name: /^Take it live/ })
      .click();
    await expect(page.locator('header').getByText('Live', { exact: true })).toBeVisible();
    await expect(region(page, 'Versions')).toContainText(`A pilot for ${EXHIBITION} from`);
  });

  await test.step('the request is met; who agreed stands on the sheet, with each case before and after', async () => {
    await page.goto(request);
    await expect(region(page, 'How it stands')).toContainText('Met: live, and proven');
    await page.getByRole('textbox', { name: 'Note to the agreement' }).fill('in the meeting');
    await page.getByRole('button', { name: 'Agrees' }).click();
    await expect(region(page, 'Who agreed')).toContainText('(in the meeting)');
    await page.getByRole('link', { name: 'Acceptance sheet' }).click();
    const sheet = page.getByRole('article');
    await expect(sheet).toContainText('Met: every rule is live, and every proof holds.');
    await expect(sheet).toContainText('Fee is at least 5,000.00 GBP');
    await expect(sheet.getByRole('row', { name: POINT })).toContainText('Shown');
    await expect(sheet).toContainText(/Odile Marchetti, insurer agreed .* \(in the meeting\)/);
    await page.goto('/w/wrenfield/requests');
    const [met, all] = before.map((number) => number + 1);
    await expect(page.getByText(`${met} of ${all} met: live, and proven.`)).toBeVisible();
  });
});
