import { type Named, type Use, usesOf } from '@/core/verify';
import { readLists } from '@/server/actions/records/saved-lists';
import { readProofs } from '@/server/queries/rules/proofs';
import { readRequests } from '@/server/queries/rules/requests';
import { allRules } from '@/server/queries/rules/rules';
import { Refusal } from '@/server/refusal';
import { inSnapshot } from '@/server/store/session/transactions';
import { currentWorkspace, type LoadedWorkspace } from '@/server/store/session/workspace';

/** Where something of the model, or a person, is named: in rules that aren't retired, selections, sections, lists, proofs and requests. */
export function findUses(known: LoadedWorkspace, named: Named): Promise<readonly Use[]> {
  return inSnapshot(async (transaction) => {
    const workspace = await currentWorkspace(transaction, known);
    const { model, people } = workspace;
    checkNamed(workspace, named);
    return usesOf(
      model,
      {
        rules: await allRules(transaction, workspace),
        lists: await readLists(transaction, workspace),
        proofs: await readProofs(transaction, workspace),
        requests: await readRequests(transaction, workspace, null),
        nameOf: (id) => people.get(id),
      },
      named,
    );
  });
}

function checkNamed({ model, people }: LoadedWorkspace, named: Named): void {
  const isThere = {
    type: () => named.kind === 'type' && model.type(named.type) !== undefined,
    field: () => named.kind === 'field' && model.field(named.type, named.field) !== undefined,
    option: () => {
      if (named.kind !== 'option') return false;
      const type = model.field(named.type, named.field)?.type;
      return (
        (type?.kind === 'choice' || type?.kind === 'choices') &&
        type.options.some(({ key }) => key === named.option)
      );
    },
    selection: () => named.kind === 'selection' && model.selection(named.selection) !== undefined,
    person: () => named.kind === 'person' && people.has(named.person),
  }[named.kind]();
  if (!isThere)
    throw new Refusal(
      404,
      'uses.unknown',
      `There is no such ${named.kind} any more. Reload to see what there is now.`,
    );
}
