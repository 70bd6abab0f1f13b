import type { PersonView } from '@/core/api';
import { models, type Person } from '@/server/database/models';
import { Refusal } from '@/server/refusal';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

export const personView = ({ id, name, role, form }: Person): PersonView => ({ id, name, role, form });

export async function listPeople({ people }: LoadedWorkspace): Promise<PersonView[]> {
  const { Person } = models();
  const found = await Person.findAll({ where: { id: [...people.keys()] }, order: [['id', 'ASC']] });
  return found.map(personView);
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
