'use client';

import { layBy } from '@/ui/api/at-hand';

/** Lays by what came with the page, before its queries ask. */
export function FirstAnswers({ answers }: { answers: Readonly<Record<string, Promise<unknown>>> }) {
  for (const [address, answer] of Object.entries(answers)) layBy(address, answer);
  return null;
}
