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

function checkNamed(workspace: LoadedWorkspace, named: Named): void {
  if (isThere(workspace, named)) return;
  const message = `There is no such ${named.kind} any more. Reload to see what there is now.`;
  throw new Refusal(404, 'uses.unknown', message);
}

function isThere({ model, people }: LoadedWorkspace, named: Named): boolean {
  switch (named.kind) {
    case 'type':
      return model.type(named.type) !== undefined;
    case 'field':
      return model.field(named.type, named.field) !== undefined;
    case 'option': {
      const type = model.field(named.type, named.field)?.type;
      const options = type?.kind === 'choice' || type?.kind === 'choices' ? type.options : [];
      return options.some(({ key }) => key === named.option);
    }
    case 'selection':
      return model.selection(named.selection) !== undefined;
    case 'person':
      return people.has(named.person);
  }
}
