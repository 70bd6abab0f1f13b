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

interface RoleWords {
  readonly name: string;
  readonly rights: readonly Right[];
}

/** The roles of a workspace, from the least to the most. */
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

export type Role = keyof typeof ROLES;

export const has = (role: Role, right: Right): boolean =>
  (ROLES[role].rights as readonly Right[]).includes(right);

/** Why somebody may not do something, by the role that they have; `null`: they are no longer here. */
export function whyMayNot(role: Role | null, right: Right): string {
  const names = Object.values(ROLES)
    .filter(({ rights }) => (rights as readonly Right[]).includes(right))
    .map(({ name }) => name);
  const who = names.length > 1 ? `${names.slice(0, -1).join(', ')} and ${names.at(-1)}` : names.join('');
  const own = role === null ? 'you are no longer here' : `you are here as ${ROLES[role].name}`;
  return `Who may ${RIGHTS[right]}: ${who}; ${own}.`;
}
