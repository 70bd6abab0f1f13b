'use client';

import { has, type Right, whyMayNot } from '@/core/api';
import { usePerson } from './person';
import { usePeople } from './queries';

/** Why whoever acts may not do something in the workspace, in words; `null` where they may, and until it is known. */
export function useWhyNot(right: Right): string | null {
  const { id } = usePerson();
  const access = usePeople().data?.people.find((one) => one.id === id)?.access;
  if (access === undefined || (access !== null && has(access, right))) return null;
  return whyMayNot(access, right);
}
