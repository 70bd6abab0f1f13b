import { expect, test } from './test';

test('an open link is made, filled with a parent of either type, and its children are edited and moved where they hang', async ({
  page,
}) => {
  const dialog = page.getByRole('dialog');
  await test.step('the map and the type tell it apart; another is made with its links', async () => {
    await page.goto('/w/wrenfield/model');
    const panel = page.getByRole('region', { name: /^Type / });
    await page
      .getByTestId('type-on-map')
      .filter({ hasText: /^Status sheet/ })
      .click();
    await expect(panel).toContainText('Status sheet');
    await panel.getByRole('button', { name: 'Add an open link' }).click();
    await dialog.getByRole('textbox', { name: 'Name', exact: true }).fill('About');
    await dialog.getByRole('combobox', { name: 'Names records of' }).click();
    await page.getByTitle('Shipment', { exact: true }).click();
    await page.getByTitle('Crate', { exact: true }).click();
    await page.keyboard.press('Escape');
    await expect(dialog).toContainText('Adds Shipment to Status sheet');
    await dialog.getByRole('button', { name: 'Add the open link' }).click();
    await expect(panel).toContainText('open link to Shipment or Crate');
    await page
      .getByTestId('type-on-map')
      .filter({ hasText: /^Inspection/ })
      .click();
    await expect(panel).toContainText('open link to Artefact or Crate');
    await expect(panel).toContainText('serial number, INS-0001 on');
  });

  await test.step('its fields are put in another order', async () => {
    await page.getByRole('button', { name: 'Order its fields …' }).click();
    await dialog.getByRole('button', { name: 'Move Outcome up' }).click();
    await dialog.getByRole('button', { name: 'Keep this order' }).click();
    await expect(dialog).toHaveCount(0);
    const fields = page.getByRole('region', { name: 'Type Inspection' }).getByRole('row');
    await expect(fields.nth(-2)).toContainText('Outcome');
    await expect(fields.nth(-1)).toContainText('Completed on');
  });

  await test.step('a new record needs a parent, of either type, and is given its number', async () => {
    await page.goto('/w/wrenfield/records/inspection/new');
    await page.getByRole('textbox', { name: 'Title' }).fill('Crate opened at the border');
    await expect(page.getByText('given when saved')).toBeVisible();
    await expect(page.getByRole('button', { name: 'Save' })).toBeDisabled();
    await page.getByRole('combobox', { name: 'Type of Concerns' }).click();
    await page.getByTitle('Crate', { exact: true }).click();
    await page.getByRole('combobox', { name: 'Concerns', exact: true }).fill('Rivers of Silk 1');
    await page.getByTitle('Rivers of Silk 1', { exact: true }).click();
    await page.getByRole('button', { name: 'Save' }).click();
    await expect(page.getByRole('heading', { name: 'Crate opened at the border' })).toBeVisible();
    await expect(page.getByText(/^INS-\d{4}$/)).toBeVisible();
    await expect(page.getByRole('navigation', { name: 'Way here' })).toContainText('Rivers of Silk 1');
  });

  await test.step('it is edited on its parent’s page, and moved to a parent of the other type', async () => {
    await page
      .getByRole('navigation', { name: 'Way here' })
      .getByRole('link', { name: 'Rivers of Silk 1' })
      .click();
    const list = page.getByRole('region', { name: 'Inspections' });
    await list.getByRole('button', { name: 'Edit here' }).click();
    await list.getByRole('button', { name: 'Outcome of Crate opened at the border: empty. Edit' }).click();
    await page.getByTitle('Watch', { exact: true }).click();
    await list.getByRole('button', { name: 'Artefact of Crate opened at the border: empty. Edit' }).click();
    await page.getByTitle('Almanac 1742', { exact: true }).click();
    await expect(list).toContainText('3 values of 1 inspection changed, not saved yet.');
    await list.getByRole('button', { name: 'What follows …' }).click();
    await expect(dialog).toContainText('Almanac 1742');
    await dialog.getByRole('button', { name: 'Not now' }).click();
    await list.getByRole('button', { name: 'Save', exact: true }).click();
    await expect(list.getByRole('link', { name: 'Crate opened at the border' })).toHaveCount(0);
    await page.goto('/w/wrenfield/records/artefact');
    await page.getByRole('link', { name: 'Almanac 1742' }).click();
    await expect(page.getByRole('region', { name: 'Inspections' })).toContainText(
      'Crate opened at the border',
    );
  });
});
