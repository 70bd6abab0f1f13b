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
  await page
    .getByText(/^Loading /)
    .first()
    .waitFor({ state: 'hidden' });
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
  await page.getByTitle(title, { exact: true }).last().click();
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
  await page.getByTestId('type-on-map').first().waitFor();
  await page.getByTestId('type-on-map').filter({ hasText: 'Exhibition' }).click();
  await page.getByRole('button', { name: 'Artefact count', exact: true }).click();
  await page.mouse.move(700, 20);
  await picture(page, 'model');
}

const LOANS = [
  'Title,Exhibition,Lender,Stage,Insured value (GBP),Due back',
  '"Aldermoor Museums Trust, pattern books",Rivers of Silk,Aldermoor Museums Trust,Agreed,"160,000.00",30/09/2027',
  '"Calder Vale Museum, printing blocks",Rivers of Silk,Calder Vale Museum,Agreed,"48,500.00",30/09/2027',
  'Night boats,Rivers of Silk,Calder Vale Museum,Requested,"12,250.00",15/10/2027',
  'River charts,Rivers of Sand,Calder Vale Museum,Requested,"900.50",15/10/2027',
  'Lantern slides,Rivers of Silk,Calder Vale Museum,Perhaps,,15/10/2027',
].join('\r\n');

const fileOf = (name: string, text: string) => ({ name, mimeType: 'text/csv', buffer: Buffer.from(text) });

async function takeFiles(page: Page): Promise<void> {
  await page.goto(`${base}/w/wrenfield/records/loan/import`);
  await page.locator('input[type=file]').setInputFiles(fileOf('loans-october.csv', LOANS));
  await page.getByRole('combobox', { name: 'Key' }).click();
  await page.getByTitle('Title', { exact: true }).last().click();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Rehearse the import' }).click();
  await page.getByRole('region', { name: 'Refused rows' }).waitFor();
  await page.mouse.move(700, 20);
  await picture(page, 'import');
}

async function takeLists(page: Page): Promise<void> {
  await page.goto(`${base}/w/wrenfield/records/artefact`);
  await page.getByRole('group', { name: 'This list' }).getByRole('button', { name: 'Lists' }).click();
  await page.getByRole('menuitem', { name: 'To inspect before packing' }).click();
  await page.getByText('is in', { exact: true }).waitFor();
  await page.locator('.ant-table-row').first().waitFor();
  await page.mouse.move(700, 20);
  await picture(page, 'list');
}

/** A rule of the list with its worked example: each kind, and what rules propose. */
async function takeKinds(page: Page): Promise<void> {
  const open = async (sentence: string, type?: string, sample = '') => {
    await page.goto(`${base}/w/wrenfield/rules`);
    await page.getByRole('listitem').filter({ hasText: sentence }).getByRole('link').click();
    if (type) {
      await page.getByRole('combobox', { name: `Sample ${type}` }).click();
      await page.keyboard.type(sample);
      // The last, for the one that is chosen already is named by the field as well.
      await page.getByTitle(sample, { exact: true }).last().click();
    }
    await page
      .getByText(/by this rule|Would take it|had just come to meet/)
      .first()
      .waitFor();
    await page.mouse.move(900, 700);
  };
  await open('keep Climate levy', 'Loan', 'Aldermoor Museums Trust, pattern books');
  await page.locator('.cm-content').hover({ position: { x: 120, y: 16 } });
  await page.locator('.feel-value').waitFor();
  await picture(page, 'formula');
  await open('Dealings by Stage', 'Loan', 'Thornwick Castle, court robes');
  await page.getByRole('button', { name: /^Table for Dealings/ }).click();
  await page.getByRole('columnheader', { name: 'Dealings becomes' }).waitFor();
  await picture(page, 'cascade');
  await page.keyboard.press('Escape');
  await open('make an Insurance line', 'Artefact', 'Astrolabe with nine plates');
  await page.getByRole('columnheader', { name: 'Where that comes from' }).waitFor();
  await picture(page, 'create');
  await page.goto(`${base}/w/wrenfield/settings`);
  await page.getByRole('checkbox', { name: 'That rules go live' }).scrollIntoViewIfNeeded();
  await picture(page, 'settings');
  await page.goto(`${base}/w/wrenfield/today`);
  await page.getByRole('heading', { name: 'What would follow', exact: true }).waitFor();
  await page
    .getByText(/IL-\d{4}/)
    .first()
    .waitFor();
  await picture(page, 'today');
}

/** What colleagues asked for, an acceptance sheet, and all rules with what feeds what. */
async function takeVerified(page: Page): Promise<void> {
  await page.goto(`${base}/w/wrenfield/requests`);
  await page.getByRole('link', { name: 'Letters go to the house' }).waitFor();
  await picture(page, 'requests');
  await page.getByRole('link', { name: 'Letters go to the house' }).click();
  await page.getByRole('link', { name: 'Acceptance sheet' }).click();
  await page.getByRole('article').waitFor();
  await picture(page, 'acceptance');
  await page.goto(`${base}/w/wrenfield/rules/review`);
  await page.getByTestId('rule-on-map').filter({ hasText: 'Artefact: Crate' }).click();
  await page.getByText('Fed by').waitFor();
  await page.mouse.move(700, 20);
  await picture(page, 'review');
}

/** A proof that a change of its rule makes fail, opened on the bench. */
async function takeProof(page: Page): Promise<void> {
  await page.goto(`${base}/w/wrenfield/rules`);
  await page.getByRole('listitem').filter({ hasText: 'keep Loans due soon' }).getByRole('link').click();
  await page.getByRole('button', { name: 'Remove the test on Stage' }).click();
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  const failing = page
    .getByRole('region', { name: 'Proofs' })
    .getByRole('listitem')
    .filter({ hasText: 'doesn’t hold' });
  await failing.first().getByRole('link').click();
  await page.getByRole('region', { name: 'The proof' }).getByText('should become').waitFor();
  await page.mouse.move(1200, 780);
  await picture(page, 'proof');
}

async function takePictures(page: Page): Promise<void> {
  await takeModel(page);
  await takeFiles(page);
  await takeLists(page);
  await takeVerified(page);
  await takeKinds(page);
  await page.goto(`${base}/w/wrenfield/rules`);
  await page.getByRole('listitem').first().waitFor();
  await picture(page, 'rules');
  await writeRule(page);
  await picture(page, 'rule');
  await page.getByRole('button', { name: 'Save as draft' }).click();
  await page.waitForURL(/rules\/[0-9a-f-]{36}/);
  const rule = page.url();
  const proofs = page.getByRole('region', { name: 'Proofs' });
  await proofs.getByText('Cases to try').waitFor();
  await proofs.evaluate((part) => part.scrollIntoView({ block: 'start' }));
  await page.mouse.move(1200, 780);
  await picture(page, 'cases');

  await page.getByRole('link', { name: 'Try on the bench' }).click();
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

  await changeALoan(page);
  await page.goto(`${base}/w/wrenfield/records/exhibition`);
  await page.getByRole('link', { name: 'Rivers of Silk' }).click();
  const history = page.getByRole('region', { name: 'History' });
  await history.getByRole('listitem').first().waitFor();
  await page.getByRole('region', { name: 'Loans' }).getByRole('row').first().waitFor();
  await page.mouse.move(700, 20);
  await picture(page, 'record');
  await page.getByRole('button', { name: /^Insured total: .* Open what it is made of/ }).click();
  await page.getByRole('dialog').getByRole('row').first().waitFor();
  await picture(page, 'opened-value');
  await page.keyboard.press('Escape');
  await takeProof(page);
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
