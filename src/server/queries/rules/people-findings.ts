import { fieldIn, fieldSeen, type RoleAccess, sightOf, typeIn } from '@/core/model';
import { fieldsRead, RECORD_ITSELF } from '@/core/expression';
import type { CompiledCreate, CompiledRule, FieldRef, RuleDefinition } from '@/core/rules';
import type { ReviewFinding } from '@/core/verify';
import type { Transaction } from 'sequelize';
import { rolesOf } from '@/server/sign-in/roles';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { run } from '@/server/store/sql/sql';

/** What is better looked at in a rule because of people: who is no longer here and named by it, and who learns of what they don't see. */
export async function peopleFindings(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  definition: RuleDefinition,
  rules: readonly (CompiledRule | CompiledCreate)[],
): Promise<ReviewFinding[]> {
  return [
    ...(await goneFindings(transaction, workspace, definition)),
    ...(await sightFindings(transaction, workspace, rules)),
  ];
}

/** People whom a rule names, writes to or assigns, and who are no longer here. */
async function goneFindings(
  transaction: Transaction,
  { id, people }: LoadedWorkspace,
  definition: RuleDefinition,
): Promise<ReviewFinding[]> {
  const text = JSON.stringify(definition);
  const named = [...people.keys()].filter((person) => text.includes(person));
  if (named.length === 0) return [];
  const here = await run<{ id: string }>(
    transaction,
    'SELECT DISTINCT person_id::text AS id FROM public.member_role WHERE workspace_id = $1 AND person_id = ANY ($2::uuid[])',
    [id, named],
  );
  const tells = 'tells' in definition ? definition.tells : null;
  return named
    .filter((person) => !here.some((one) => one.id === person))
    .map((person): ReviewFinding => {
      const name = (people.get(person) ?? '').replace(/ \(no longer here\)$/, '');
      const why =
        tells === person
          ? `It writes to ${name}, who is no longer here: nobody reads that. Choose somebody else.`
          : `It names ${name}, who is no longer here. Choose somebody else, if that isn’t meant.`;
      return { code: 'person.gone', why, fix: null };
    });
}

/** A field that a rule writes, and what it reads for it. */
interface Brought {
  readonly writes: FieldRef;
  readonly reads: readonly FieldRef[];
}

/** What a rule brings into which fields; one that makes records, into each of those that it fills. */
function broughtBy(rule: CompiledRule | CompiledCreate): readonly Brought[] {
  if (rule.kind !== 'create') return [rule];
  return [...rule.assigned, ...rule.given].map(({ target, value }) => ({
    writes: { type: rule.makes, field: target.key },
    reads: (value.kind === 'text'
      ? value.parts.filter((part) => typeof part !== 'string')
      : fieldsRead(value.value)
    )
      .filter(({ field }) => field !== RECORD_ITSELF)
      .map(({ owner, field }) => ({ type: owner, field })),
  }));
}

/** Fields that a rule brings into one that more people see, with who sees it. */
async function sightFindings(
  transaction: Transaction,
  { id, model }: LoadedWorkspace,
  rules: readonly (CompiledRule | CompiledCreate)[],
): Promise<ReviewFinding[]> {
  const accesses = await run<{ role: string; access: RoleAccess }>(
    transaction,
    'SELECT role, access FROM public.role_access WHERE workspace_id = $1 ORDER BY role',
    [id],
  );
  if (accesses.length === 0) return [];
  const roles = await rolesOf(id, transaction);
  const brought = rules.flatMap(broughtBy);
  const found = new Map<
    string,
    { readonly target: string; readonly hidden: string; readonly who: string[] }
  >();
  for (const { role, access } of accesses) {
    const sight = sightOf([access], '');
    const who = roles.find(({ key }) => key === role)?.name;
    if (!sight || who === undefined) continue;
    for (const { writes, reads } of brought) {
      if (fieldSeen(sight, writes.type, writes.field) === 'hidden') continue;
      for (const { type, field } of reads) {
        if (fieldSeen(sight, type, field) !== 'hidden') continue;
        const target = `${fieldIn(model, writes.type, writes.field).name} of ${typeIn(model, writes.type).plural}`;
        const hidden = `${fieldIn(model, type, field).name} of ${typeIn(model, type).plural}`;
        const key = `${target}\n${hidden}`;
        const known = found.get(key) ?? { target, hidden, who: [] };
        if (!known.who.includes(who)) known.who.push(who);
        found.set(key, known);
      }
    }
  }
  const list = new Intl.ListFormat('en-GB');
  return [...found.values()].map(({ target, hidden, who }) => ({
    code: 'sight.brings',
    why: `It brings ${hidden} into ${target}: whoever is ${list.format(who)} sees the latter, and not the former. Hide the latter from them too, or leave it so where that is meant.`,
    fix: null,
  }));
}
