'use client';

import { type MemberView, type Right, type RoleView, whyMayNot } from '@/core/api';
import { usePerson } from './person';
import { usePeople } from './queries';
import { useSeenAs } from './see-as';

/** Why whoever acts may not do something in the workspace, in words; `null` where they may, and until it is known. */
export function useWhyNot(right: Right): string | null {
  const { id } = usePerson();
  const { data } = usePeople();
  const seenAs = useSeenAs();
  const member = data?.people.find((one) => one.id === id);
  if (data && seenAs)
    return seenAs.rights.includes(right) ? null : whyMayNot(data.roles, [seenAs.name], right);
  if (!data || !member || member.rights.includes(right)) return null;
  return whyMayNot(data.roles, namesOf(data.roles, member), right);
}

/** Whether whoever acts sees only a part of the workspace; `false` until it is known. */
export function useSeesPart(): boolean {
  const { id } = usePerson();
  const { data } = usePeople();
  const seenAs = useSeenAs();
  if (seenAs) return data?.partial.includes(seenAs.key) ?? false;
  return data?.people.find((one) => one.id === id)?.seesPart ?? false;
}

/** What somebody is in the workspace, by names. */
export function namesOf(roles: readonly RoleView[], { access, groups }: MemberView): readonly string[] {
  const keys = new Set([access, ...groups.map((one) => one.access)]);
  return roles.filter(({ key }) => keys.has(key)).map(({ name }) => name);
}
