import { expect, type Page } from '@playwright/test';

/** Chooses in a part of a rule's sentence: the button by what it is, the menu by what is chosen. */
export async function choose(page: Page, part: string, item: string | RegExp): Promise<void> {
  const [button, entry] = [
    page.getByRole('button', { name: new RegExp(`^${part}`) }),
    page.getByRole('menuitem', { name: item }),
  ];
  // On a busy machine a menu may still be moving into place as it is pressed: then it is pressed again, as a person would.
  await expect(async () => {
    if (!(await entry.isVisible())) await button.click();
    await entry.click({ timeout: 3_000 });
    await expect(entry).toBeHidden({ timeout: 1_500 });
  }).toPass({ timeout: 300_000 });
}

/** Saves a new rule and takes it live, until it says so. */
export async function takeLive(page: Page): Promise<void> {
  const dialog = page.getByRole('dialog');
  await page.getByRole('button', { name: 'Save as draft' }).click();
  await page.getByRole('button', { name: 'Take it live …' }).click();
  await dialog.getByRole('button', { name: /^Take it live/ }).click();
  await expect(page.locator('header').getByText('Live')).toBeVisible();
  await expect(dialog).toHaveCount(0);
}
