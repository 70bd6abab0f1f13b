import type { PersonView } from '@/core/verify';
import { models } from '../database/models';
import type { LoadedWorkspace } from '../store/workspace';

export async function listPeople({ people }: LoadedWorkspace): Promise<PersonView[]> {
  const { Person } = models();
  const found = await Person.findAll({ where: { id: [...people.keys()] }, order: [['id', 'ASC']] });
  return found.map(({ id, name, role }) => ({ id, name, role }));
}
