import type { MemberView, PersonView } from '@/core/api';
import { models, type Person } from '@/server/database/models';
import { Refusal } from '@/server/refusal';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

export const personView = ({ id, name, role, form }: Person): PersonView => ({ id, name, role, form });

/** Everybody who takes part in a workspace, or did. */
export async function listPeople({ id: workspaceId, people }: LoadedWorkspace): Promise<MemberView[]> {
  const { Person, Membership } = models();
  const found = await Person.findAll({ where: { id: [...people.keys()] }, order: [['id', 'ASC']] });
  const members = new Map(
    (await Membership.findAll({ where: { workspaceId } })).map((one) => [one.personId, one]),
  );
  return found.map((person) => {
    const member = members.get(person.id);
    const access = member && !member.leftAt ? member.role : null;
    // As the workspace calls them: who has left is called so.
    const name = people.get(person.id) ?? person.name;
    return { ...personView(person), name, access, isAwaited: person.password === null };
  });
}

/** Everybody of the installation. */
export async function everybody(): Promise<PersonView[]> {
  const found = await models().Person.findAll({ order: [['id', 'ASC']] });
  return found.map(personView);
}

/** Refuses who isn’t a person of the workspace. */
export function checkPerson({ people }: Pick<LoadedWorkspace, 'people'>, person: string): void {
  if (!people.has(person)) throw unknownPerson();
}

const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i;

/** Refuses who isn't a person of the installation. */
export async function checkSomebody(person: string): Promise<void> {
  if (UUID.test(person) && (await models().Person.findByPk(person))) return;
  throw new Refusal(
    401,
    'person.unknown',
    'Say who acts: send the id of a person of this installation in the header Oikon-Person.',
  );
}

export const unknownPerson = (): Refusal =>
  new Refusal(
    401,
    'person.unknown',
    'Say who acts: send the id of a person of this workspace in the header Oikon-Person.',
  );
