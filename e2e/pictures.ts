/**
 * Takes the pictures in docs/screenshots from a running demo (bin/pictures starts one). It writes a rule as a draft and
 * takes it live, so it is for a demo that is loaded afresh.
 */
import { chromium, type Page } from '@playwright/test';
import { CHROMIUM } from './chromium';

const base = process.env.PICTURES_OF ?? 'http://127.0.0.1:4410';
const folder = 'docs/screenshots';

async function picture(page: Page, name: string): Promise<void> {
  await page.evaluate(() => document.fonts.ready);
  await page.locator('.ant-message-notice').first().waitFor({ state: 'hidden' });
  await page.waitForFunction(() =>
    document.getAnimations().every((animation) => animation.playState !== 'running'),
  );
  await page.screenshot({ path: `${folder}/${name}.png` });
  console.log(`${folder}/${name}.png`);
}

async function choose(page: Page, part: string, item: string | RegExp): Promise<void> {
  await page.getByRole('button', { name: new RegExp(`^${part}`) }).click();
  await page.getByRole('menuitem', { name: item }).click();
}

async function chooseFamily(page: Page, label: string, title: string): Promise<void> {
  await page.getByRole('combobox', { name: label }).click();
  await page.getByTitle(title, { exact: true }).click();
}

async function writeRule(page: Page): Promise<void> {
  await page.goto(`${base}/w/wrenfield/rules/new`);
  await choose(page, 'Type of record', 'Exhibition');
  await choose(page, 'Aggregate', /^sum/);
  await choose(page, 'Records that are brought together', /^Loans/);
  await choose(page, 'Value that is brought together', /^Insured value/);
  await choose(page, 'Field that is kept', /^Insured total/);
  await choose(page, 'Add a test on', 'Stage');
  await choose(page, 'Compared with', 'Agreed');
  await page
    .getByRole('textbox', { name: 'Note: who asked for it, and why' })
    .fill('Priya Ramanathan: “The insurer asks for it before the transport is booked.”');
  await chooseFamily(page, 'Sample Exhibition', 'Rivers of Silk');
  await page.getByText('Would change', { exact: true }).waitFor();
  await page.mouse.move(900, 700);
}

async function takeModel(page: Page): Promise<void> {
  await page.goto(`${base}/w/wrenfield/model`);
  await page.locator('.map-box').first().waitFor();
  await page.getByRole('combobox', { name: 'Point out a rule' }).click();
  await page
    .getByTitle(/^Institution lent total/)
    .first()
    .click();
  await page.locator('.map-box', { hasText: 'Exhibition' }).click();
  await page.getByRole('button', { name: 'Insured total', exact: true }).click();
  await page.mouse.move(700, 20);
  await picture(page, 'model');
  await page.locator('.map-box', { hasText: 'Loan' }).click();
  await page.getByRole('button', { name: 'Change Stage' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'Remove Returned' }).click();
  await dialog.getByRole('combobox', { name: 'In place of Returned' }).click();
  await page.getByTitle('Agreed', { exact: true }).click();
  await page.getByText('come out otherwise').waitFor();
  await page.mouse.move(700, 20);
  await picture(page, 'model-change');
}

async function takePictures(page: Page): Promise<void> {
  await takeModel(page);
  await page.goto(`${base}/w/wrenfield/rules`);
  await page.getByRole('listitem').first().waitFor();
  await picture(page, 'rules');
  await writeRule(page);
  await picture(page, 'rule');
  await page.getByRole('button', { name: 'Save as draft' }).click();
  await page.waitForURL(/rules\/[0-9a-f-]{36}/);
  const rule = page.url();

  await page.getByRole('button', { name: 'Try on the bench' }).click();
  await chooseFamily(page, 'Sample family', 'Rivers of Silk');
  await page.getByRole('button', { name: /^Stage of Calder Vale Museum, printing blocks: Declined/ }).click();
  await page.getByTitle('Agreed', { exact: true }).last().click();
  const change = page
    .getByRole('region', { name: /^First wave/ })
    .getByRole('listitem')
    .filter({ hasText: 'Insured total' });
  await change.hover();
  await picture(page, 'bench');

  await page.goto(rule);
  await page.getByRole('button', { name: 'Take it live …' }).click();
  await page.getByRole('dialog').getByText('6 of 6 Exhibitions would change').waitFor();
  await picture(page, 'take-live');
  await page.getByRole('button', { name: /^Take it live and fill/ }).click();
  await page.getByText('Live. 6 Exhibitions changed.').waitFor();

  await page.goto(`${base}/w/wrenfield/records/loan`);
  await page.getByText('in all').waitFor();
  await page.getByRole('button', { name: /^Add a test on/ }).click();
  await page.getByRole('menuitem', { name: 'Stage', exact: true }).click();
  await page.getByRole('button', { name: /^Compared with/ }).click();
  await page.getByRole('menuitem', { name: 'Agreed' }).click();
  await page.locator('.ant-table-row').first().waitFor();
  await page.mouse.move(700, 20);
  await picture(page, 'records');
  await changeALoan(page);
  await page.goto(`${base}/w/wrenfield/records/exhibition`);
  await page.getByRole('link', { name: 'Rivers of Silk' }).click();
  const history = page.getByRole('region', { name: 'History' });
  await history.getByRole('listitem').first().waitFor();
  await page.getByRole('region', { name: 'Loans' }).getByRole('row').first().waitFor();
  await page.mouse.move(700, 20);
  await picture(page, 'record');
  await page.locator('.place-body').evaluate((element) => element.scrollTo(0, element.scrollHeight));
  await picture(page, 'history');
  const run = (await history.getByRole('link').first().getAttribute('href'))!;
  await page.getByRole('button', { name: /^Insured total: .* Open what it is made of/ }).click();
  await page.getByRole('dialog').getByRole('row').first().waitFor();
  await picture(page, 'opened-value');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Delete …' }).click();
  await page.getByText('would be deleted').waitFor();
  await picture(page, 'delete');
  await page.goto(base + run);
  await page.getByRole('region', { name: 'Ripple' }).waitFor();
  await picture(page, 'run');
}

/** An edit of a loan, for the history and the ledger to show. */
async function changeALoan(page: Page): Promise<void> {
  await page.goto(`${base}/w/wrenfield/records/loan`);
  await page.getByPlaceholder('Search loans').fill('pattern books');
  await page.getByRole('link', { name: /pattern books/ }).click();
  await page.getByRole('textbox', { name: 'Insured value' }).fill('151,800.25');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await page.getByText(/^Saved\. It followed/).waitFor();
}

async function main(): Promise<void> {
  const browser = await chromium.launch(CHROMIUM);
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, reducedMotion: 'reduce' });
  page.setDefaultTimeout(30_000);
  try {
    await takePictures(page);
  } finally {
    await browser.close();
  }
}

main().catch((error: unknown) => {
  console.error(error);
  process.exitCode = 1;
});
