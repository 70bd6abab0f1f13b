import type { PersonView } from '@/core/api';
import { type Form, sameForm, PLAIN_FORM } from '@/core/values';
import { models } from '@/server/database/models';
import { personView } from '@/server/queries/workspaces/people';
import { Refusal } from '@/server/refusal';
import { inInstallation } from '@/server/store/session/transactions';

/** Says how a person writes numbers and dates; nobody says it for another. */
export async function chooseForm(id: string, form: Form | null, person: string): Promise<PersonView> {
  if (id !== person)
    throw new Refusal(
      403,
      'person.other',
      'How numbers and dates are written everybody chooses for themselves. Act as this person to change it.',
    );
  const { Person } = models();
  return inInstallation(async (transaction) => {
    await Person.update({ form: form && plain(form) }, { where: { id }, transaction });
    const stored = await Person.findByPk(id, { transaction, rejectOnEmpty: true });
    return personView(stored);
  });
}

const plain = ({ decimal, grouping, dates }: Form): Form => ({ decimal, grouping, dates });

/** What is stored of a workspace's form: nothing for the plain one. */
export const storedForm = (form: Form): Form | null => (sameForm(form, PLAIN_FORM) ? null : plain(form));
