import { expect, type Locator, type Page, test } from './test';

const NAME = 'Pocket opera';
const SHOWS = [
  'Title,Hall,Opens',
  'The Tin Moon,Kiln Hall,2027-03-01',
  'Night Ferry,Kiln Hall,2027-06-15',
].join('\n');
const SEATS = [
  'Booking,Show,Stage,Price (GBP)',
  'B-1,The Tin Moon,Paid,42.50',
  'B-2,The Tin Moon,Paid,40.00',
  'B-3,The Tin Moon,Held,40.00',
  'B-4,Night Ferry,Paid,12.00',
  'B-5,Night Ferry,Held,12.00',
  'B-6,Night Ferry,Held,12.00',
  'B-7,Night Ferry,Paid,12.00',
  'B-8,The Tin Moon,Held,40.00',
].join('\n');

const fileOf = (name: string, text: string) => ({ name, mimeType: 'text/csv', buffer: Buffer.from(text) });
const dialog = (page: Page) => page.getByRole('dialog');
const isFocused = (of: Locator) => of.evaluate((element) => element === document.activeElement);

/** Goes on by Tab until something has the focus, as whoever has no pointer does. */
async function tabTo(page: Page, wanted: Locator): Promise<void> {
  await expect(wanted).toBeVisible();
  for (let pressed = 0; pressed < 150; pressed += 1) {
    if (await isFocused(wanted)) return;
    await page.keyboard.press('Tab');
  }
  throw new Error(`Tab doesn’t come to ${wanted.toString()}`);
}

/** Goes to a button or a link once it can be pressed, and presses it. */
async function press(page: Page, wanted: Locator): Promise<void> {
  await expect(wanted).toBeEnabled();
  await tabTo(page, wanted);
  await page.keyboard.press('Enter');
}

/** Opens a part of the sentence, and types the beginning of what is chosen there. */
async function choose(page: Page, part: string, typed: string): Promise<void> {
  const button = page.getByRole('button', { name: new RegExp(`^${part}`) });
  await press(page, button);
  await expect(page.getByRole('menuitem').first()).toBeVisible();
  await page.keyboard.type(typed);
  await expect(page.getByRole('textbox', { name: 'Narrow the list' })).toHaveValue(typed);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('menuitem')).toHaveCount(0);
  // It goes on from there: with the part, or with what took its place.
  await expect(page.locator('button:focus')).toHaveCount(1);
}

async function chooseFile(page: Page, name: string, text: string): Promise<void> {
  const chooser = page.waitForEvent('filechooser');
  await press(page, page.getByRole('button', { name: /^Choose a file, or drop it here/ }));
  await (await chooser).setFiles(fileOf(name, text));
}

test('from two files to a rule that is live and proven, without a pointer', async ({ page }) => {
  const would = page.getByRole('region', { name: 'What it would do' });
  await test.step('a workspace', async () => {
    await page.goto('/workspaces');
    await expect(page.getByRole('link', { name: 'Wrenfield Touring' })).toBeVisible();
    await press(page, page.getByRole('button', { name: 'New workspace' }));
    await expect(dialog(page).getByRole('textbox', { name: 'Name', exact: true })).toBeFocused();
    await page.keyboard.type(NAME);
    await page.keyboard.press('Enter');
    await expect(page).toHaveURL(/\/w\/pocket-opera\/model$/);
  });

  for (const [name, text, path, rows] of [
    ['shows.csv', SHOWS, 'show', 2],
    ['bookings.csv', SEATS, 'booking', 8],
  ] as const)
    await test.step(`${name} becomes a type, and its rows records`, async () => {
      await press(page, page.getByRole('button', { name: 'Type from a file' }));
      await chooseFile(page, name, text);
      await press(page, dialog(page).getByRole('button', { name: 'Add the type' }));
      await expect(page).toHaveURL(new RegExp(`/records/${path}/import$`));
      await press(page, page.getByRole('button', { name: 'Rehearse the import' }));
      await press(page, would.getByRole('button', { name: `Import ${rows} rows` }));
      await expect(page.getByRole('heading', { name: /^Imported as run/ })).toBeVisible();
      await press(
        page,
        page.getByRole('link', { name: name === 'shows.csv' ? 'Model' : 'Rules', exact: true }),
      );
    });

  await test.step('a rule is written: parts are opened by Enter and narrowed by typing; what leaves no choice is filled', async () => {
    await press(page, page.getByRole('link', { name: 'Write a rule' }));
    await choose(page, 'Type of record', 'Show');
    await choose(page, 'Aggregate', 'sum');
    await expect(
      page.getByRole('button', { name: 'Records that are brought together: Bookings' }),
    ).toBeVisible();
    await expect(page.getByRole('button', { name: 'Value that is brought together: Price' })).toBeVisible();
    await press(page, page.getByRole('button', { name: /^Field that is kept/ }));
    await expect(page.getByRole('menuitem', { name: 'a new field …' })).toBeFocused();
    await page.keyboard.press('Enter');
    await expect(dialog(page).getByRole('textbox', { name: 'Name', exact: true })).toBeFocused();
    await page.keyboard.type('Sold for');
    await expect(dialog(page).getByRole('button', { name: 'Add the field' })).toBeEnabled();
    await page.keyboard.press('Enter');
    await expect(page.getByRole('button', { name: 'Field that is kept: Sold for' })).toBeVisible();
    await choose(page, 'Add a test on', 'Stage');
    await choose(page, 'Compared with', 'Paid');
  });

  await test.step('it is saved, proven and taken live', async () => {
    await page.keyboard.press('Control+s');
    await expect(page.getByRole('button', { name: 'Take it live …' })).toBeEnabled();
    await press(page, page.getByRole('button', { name: /^Keep as proof: / }).first());
    await expect(page.getByRole('region', { name: 'Proofs' })).toContainText(/holds/);
    await press(page, page.getByRole('button', { name: 'Take it live …' }));
    await press(page, dialog(page).getByRole('button', { name: /^Take it live/ }));
    await expect(page.locator('header').getByText('Live')).toBeVisible();
  });

  await test.step('the totals are there', async () => {
    await press(page, page.getByRole('link', { name: 'Records', exact: true }));
    await expect(page.locator('.ant-table-row', { hasText: 'The Tin Moon' })).toContainText('82.50 GBP');
    await expect(page.locator('.ant-table-row', { hasText: 'Night Ferry' })).toContainText('24.00 GBP');
  });
});

test.afterAll(async ({ request }) => {
  const { people } = (await (await request.get('/api/v1/people')).json()) as { people: { id: string }[] };
  await request.delete('/api/v1/workspaces/pocket-opera', {
    data: { confirmation: NAME },
    headers: { 'Oikon-Person': people[0]!.id },
  });
});
