import type { PersonView } from '@/core/verify';
import { models } from '../database/models';
import { Refusal } from '../refusal';
import type { LoadedWorkspace } from '../store/workspace';

export async function listPeople({ people }: LoadedWorkspace): Promise<PersonView[]> {
  const { Person } = models();
  const found = await Person.findAll({ where: { id: [...people.keys()] }, order: [['id', 'ASC']] });
  return found.map(({ id, name, role }) => ({ id, name, role }));
}

/** Refuses who isn’t a person of the workspace. */
export function checkPerson({ people }: Pick<LoadedWorkspace, 'people'>, person: string): void {
  if (!people.has(person)) throw unknownPerson();
}

export const unknownPerson = (): Refusal =>
  new Refusal(
    401,
    'person.unknown',
    'Say who acts: send the id of a person of this workspace in the header Oikon-Person.',
  );
