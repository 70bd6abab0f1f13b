import { expect, type Page } from '@playwright/test';

/** Acts as somebody else from now on, as the demo lets one. */
export async function actAs(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name: /^Acting as/ }).click();
  await page.getByRole('menuitem', { name: new RegExp(`^${name}`) }).click();
  await expect(page.getByRole('button', { name: `Acting as ${name}. Change who acts` })).toBeVisible();
}
