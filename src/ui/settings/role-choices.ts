import type { RoleView } from '@/core/api';

/** Roles as a list to choose from offers them. */
export const roleChoices = (roles: readonly RoleView[]) =>
  roles.map(({ key, name }) => ({ value: key, label: name }));
