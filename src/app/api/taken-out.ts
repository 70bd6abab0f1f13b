import { noteSecurity } from '@/server/sign-in/security-events';
import { loadWorkspace } from '@/server/store/session/workspace';
import { isUuid } from '@/server/uuid';
import type { Asking } from './asking';

/** What leaves a workspace as a file stands in the security ledger, before it begins. In the demo nobody need say who they are. */
export async function noteTakenOut(
  what: string,
  params: { readonly w?: string; readonly type?: string },
  { person, client }: Pick<Asking, 'person' | 'client'>,
): Promise<void> {
  const { w = '', type } = params;
  const { model } = await loadWorkspace(w);
  const name = model.types.find(({ key }) => key === type)?.plural.toLowerCase() ?? what;
  const event = {
    kind: 'exported',
    person: isUuid(person) ? person : null,
    address: client.address,
  } as const;
  await noteSecurity({ ...event, data: { workspace: w, name } });
}
