import { valueAt } from '@/core/values';
import type { CellView, ChangeView, RippleView } from '@/core/verify';
import { everyWord } from '@/ui/kit/every-word';
import { cellKey } from '@/ui/kit/values/cell-key';

/** What stands in one row of a ripple. */
export interface Row {
  readonly change: ChangeView;
  /** What a record that a rule made holds, field by field. */
  readonly holds: readonly ChangeView[];
}

/** What a rule made stands in one row with all that it holds. */
export function rowsOf(changes: readonly ChangeView[]): Row[] {
  const made = new Map<string, ChangeView[]>(
    changes.flatMap(({ kind, rule, type, id }) =>
      kind === 'created' && rule ? [[`${type} ${id}`, []]] : [],
    ),
  );
  const isHeld = ({ kind, rule, type, id }: ChangeView) =>
    kind === 'field' && rule !== null && made.has(`${type} ${id}`);
  for (const change of changes) if (isHeld(change)) valueAt(made, `${change.type} ${change.id}`).push(change);
  return changes
    .filter((change) => !isHeld(change))
    .map((change) => ({
      change,
      holds: change.kind === 'created' ? (made.get(`${change.type} ${change.id}`) ?? []) : [],
    }));
}

export const keyOf = ({ type, id, field }: CellView) => cellKey(type, id, field);

/** What a change leads to, by its cell: the cells of those that name it as a cause. */
export function followersIn(waves: RippleView['waves']): ReadonlyMap<string, readonly string[]> {
  const followers = new Map<string, string[]>();
  for (const change of waves.flatMap(({ changes }) => changes))
    for (const cause of change.causes)
      followers.set(keyOf(cause), [...(followers.get(keyOf(cause)) ?? []), keyOf(change)]);
  return followers;
}

/** The changes that hold every word of a text: in the record's title, the field, the values or the rule. */
export function searchedWaves(waves: RippleView['waves'], search: string): RippleView['waves'] {
  if (search.trim() === '') return waves;
  const holds = everyWord(search);
  const isFound = ({ title, typeName, fieldName, before, after, rule }: ChangeView) =>
    holds([title, typeName, fieldName, before?.text, after?.text, rule?.name].filter(Boolean).join('\n'));
  return waves
    .map(({ number, changes }) => ({ number, changes: changes.filter(isFound) }))
    .filter(({ changes }) => changes.length > 0);
}

/** What a wave after the first is called. */
export const waveName = (number: number) =>
  number === 1 ? 'First wave: what follows at once' : `Wave ${number}: what follows from that`;
