/** What somebody may do in a workspace, by what it says to people. */
export const RIGHTS = {
  see: 'look at everything',
  export: 'take lists and the workspace out as files',
  edit: 'add, change and delete records, and decide proposals',
  editMany: 'import files, and edit lists as a whole',
  writeRules: 'write rules, proofs, requests and families',
  takeLive: 'take rules live, and pause them',
  administer: 'change the model, and say who may what',
} as const satisfies Readonly<Record<string, string>>;

export type Right = keyof typeof RIGHTS;

/** What shows all of a workspace: whoever may one of these sees all of it. */
export const SHOWS_ALL: readonly Right[] = ['editMany', 'writeRules', 'takeLive', 'administer'];

/** What somebody is in a workspace: one of those that every workspace has, or one of its own. */
export interface RoleView {
  /** Of those that every workspace has as in `ROLES`; of its own an id. */
  readonly key: string;
  readonly name: string;
  /** In the order of `RIGHTS`. Whoever has any may `see`. */
  readonly rights: readonly Right[];
}

interface RoleWords {
  readonly name: string;
  readonly rights: readonly Right[];
}

/** The roles that every workspace has, from the least to the most. */
export const ROLES = {
  reader: { name: 'Reader', rights: ['see', 'export'] },
  editor: { name: 'Editor', rights: ['see', 'export', 'edit'] },
  bulkEditor: { name: 'Bulk editor', rights: ['see', 'export', 'edit', 'editMany'] },
  ruleWriter: { name: 'Rule writer', rights: ['see', 'export', 'edit', 'writeRules'] },
  ruleApprover: { name: 'Rule approver', rights: ['see', 'export', 'edit', 'writeRules', 'takeLive'] },
  administrator: {
    name: 'Administrator',
    rights: ['see', 'export', 'edit', 'editMany', 'writeRules', 'takeLive', 'administer'],
  },
} as const satisfies Readonly<Record<string, RoleWords>>;

/** The key of a role that every workspace has. */
export type Role = keyof typeof ROLES;

export const isRole = (key: string): key is Role => Object.hasOwn(ROLES, key);

/** All roles of a workspace: those that every one has, and its own after them. */
export const rolesWith = (own: readonly RoleView[]): readonly RoleView[] => [
  ...(Object.keys(ROLES) as Role[]).map((key) => ({ key, ...ROLES[key] })),
  ...own,
];

const LIST = new Intl.ListFormat('en-GB');

/** Why somebody may not do something, by the names of the roles that they have; none: they are no longer here. */
export function whyMayNot(roles: readonly RoleView[], own: readonly string[], right: Right): string {
  const names = roles.filter(({ rights }) => rights.includes(right)).map(({ name }) => name);
  const here = own.length === 0 ? 'you are no longer here' : `you are here as ${LIST.format(own)}`;
  return `Who may ${RIGHTS[right]}: ${LIST.format(names)}; ${here}.`;
}
