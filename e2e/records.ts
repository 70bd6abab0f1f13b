import type { Page } from '@playwright/test';

/** The demo's workspace in the API. */
export const api = '/api/v1/workspaces/wrenfield';

export interface Found {
  readonly id: string;
  readonly version: number;
  readonly values: Readonly<Record<string, unknown>>;
}

/** Records of a type, as the API has them now. */
export async function records(page: Page, type: string): Promise<readonly Found[]> {
  const answer = await page.request.get(`${api}/records/${type}?limit=500`);
  return ((await answer.json()) as { records: Found[] }).records;
}

/** What says who acts: the first person. */
export async function headers(page: Page): Promise<Record<string, string>> {
  const answer = await page.request.get(`${api}/people`);
  const { people } = (await answer.json()) as { people: { id: string }[] };
  return { 'Oikon-Person': people[0]!.id };
}
