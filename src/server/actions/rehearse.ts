import { runWith, type WireEdit } from '@/core/engine';
import type { Rule, RuleDefinition } from '@/core/rules';
import { type Rehearsal, rehearsalView, rehearsing } from '@/core/verify';
import { v7 as newId } from 'uuid';
import { refuse } from '../refusal';
import { LoadingDriver } from '../store/loading-driver';
import { loadWorkspace, readWorkspace } from '../store/workspace';
import { inSnapshot } from '../store/transactions';

export interface RehearseInput {
  readonly workspace: string;
  readonly edits: readonly WireEdit[];
  /** Rules that take part although they aren't live; one with the id of a live rule stands in for it. */
  readonly drafts: readonly {
    readonly id?: string;
    readonly name?: string;
    readonly definition: RuleDefinition;
  }[];
  readonly isUndo?: boolean;
}

/** Runs edits, and drafts, through the rules on the real data as it stands, and tells what would happen. Saves nothing. */
export async function rehearseOnData(input: RehearseInput): Promise<Extract<Rehearsal, { kind: 'done' }>> {
  const known = await loadWorkspace(input.workspace);
  return inSnapshot(async (transaction) => {
    const workspace = await readWorkspace(transaction, known);
    const { model, live, people } = workspace;
    const drafts = input.drafts.map(({ id, name, definition }, index): Rule => {
      return { id: id ?? newId(), version: newId(), name: name ?? `Draft ${index + 1}`, definition };
    });
    const driver = new LoadingDriver(workspace, transaction);
    const run = rehearsing({
      model,
      live,
      drafts,
      edits: input.edits,
      ...(input.isUndo ? { isUndo: true } : {}),
      people: new Set(people.keys()),
      newId,
    });
    const rehearsed = await runWith((need) => driver.answer(need), run);
    if (rehearsed.kind === 'done') {
      const changes = [...(rehearsed.filled?.changes ?? []), ...rehearsed.ripple.changes];
      for (const change of changes) {
        const type = model.field(change.type, change.field)?.type;
        if (type?.kind !== 'link') continue;
        await driver.load(
          type.target,
          [change.before, change.after].filter((id) => typeof id === 'string'),
        );
      }
    }
    const rehearsal = rehearsalView(model, rehearsed, driver.overlay, Object.fromEntries(people));
    if (rehearsal.kind === 'refused') throw refuse(422, rehearsal.edits);
    if (rehearsal.kind === 'unsound') throw refuse(422, rehearsal.rules);
    return rehearsal;
  });
}
