import { manyRules, manyTypes } from '@/core/testing/many';
import { makeWorkspace, removeWorkspace } from '@/server/actions/workspaces/make-workspace';
import { saveEdits } from '@/server/actions/records/save-edits';
import { createRule } from '@/server/actions/rules/write-rules';
import { takeLiveTogether } from '@/server/actions/rules/change-state';
import { listKeepers, listRules } from '@/server/queries/rules/rules';
import { previewLive } from '@/server/actions/rules/preview-live';
import { loadWorkspace, reloadWorkspace } from '@/server/store/session/workspace';
import { v7 as newId } from 'uuid';
import { TESTER } from './data';
import { compare, type Figure, timed } from './measure';

/** Milliseconds in which a list, a rule or the model must be there. */
const LIMIT = 300;
const DRAFTS = 100;

interface Sized {
  readonly key: string;
  /** Records of the first two types, the second under the first. */
  readonly ids: readonly [string, string];
  readonly draft: string;
}

async function workspaceWith(types: number): Promise<Sized> {
  const key = `bench-size-${types}`;
  await removeWorkspace(key);
  const model = { ...manyTypes(types), selections: [] };
  await makeWorkspace({
    ...{ key, name: key, timeZone: 'Europe/London', settledDay: '2026-03-14', model, people: [TESTER] },
  });
  await reloadWorkspace(key);
  const by = { workspace: key, person: TESTER.id };
  const rules = manyRules(types);
  const ids: string[] = [];
  for (const definition of rules) ids.push(await createRule({ ...by, definition }));
  for (let from = 0; from < ids.length; from += 200)
    await takeLiveTogether({ ...by, ids: ids.slice(from, from + 200) });
  let draft = '';
  for (const definition of rules.slice(0, DRAFTS)) draft = await createRule({ ...by, definition });
  const [parent, child] = [newId(), newId()];
  await saveEdits({
    ...by,
    edits: [
      { kind: 'create', type: 't0', id: parent, values: { title: 'Parent' } },
      { kind: 'create', type: 't1', id: child, values: { title: 'Child', under: parent, amount: '1' } },
    ],
  });
  return { key, ids: [parent, child], draft };
}

/** What is asked for all day, with 200 types and some 560 live rules, against the time in which it must be there; an edit against the same among 50 types. */
export async function benchSize(): Promise<Figure[]> {
  const large = await workspaceWith(200);
  const small = await workspaceWith(50);
  const known = await loadWorkspace(large.key);
  const looks: readonly (readonly [string, () => Promise<unknown>])[] = [
    ['the list of rules', () => listRules(known)],
    ['the model, with what keeps which field', () => listKeepers(known)],
    ['a workspace read and compiled', () => reloadWorkspace(large.key)],
    ['the preview of a draft', () => previewLive(large.key, large.draft).catch(() => null)],
  ];
  const figures: Figure[] = [];
  for (const [words, look] of looks)
    figures.push(
      await compare({
        work: `${words}: 200 types, ${known.live.length} live rules, ${DRAFTS} drafts`,
        ...{ must: 1, goal: 1 / 3, rounds: 7, warmUp: 0, note: `against ${LIMIT} ms` },
        ours: () => timed(look),
        theirs: () => Promise.resolve(LIMIT),
      }),
    );
  const save = async ({ key, ids: [, id] }: Sized, round: number) => {
    const edits = [{ kind: 'edit', type: 't1', id, values: { amount: String(round + 2) } }] as const;
    return timed(() => saveEdits({ workspace: key, person: TESTER.id, edits }));
  };
  figures.push(
    await compare({
      work: 'one saved edit: 200 types and all their rules, against 50',
      ...{ must: 1.2, goal: 1, rounds: 60, warmUp: 10 },
      ours: (round) => save(large, round),
      theirs: (round) => save(small, round),
    }),
  );
  await removeWorkspace(large.key);
  await removeWorkspace(small.key);
  return figures;
}
