import { type Model, typeIn } from '../model';
import type { Plan } from '../plan';
import { type CompiledCreate, isCreate } from '../rules';
import { type Entry, titleOf } from './apply-edits';
import type { Edit, EditProblem } from './edit';
import { ask, type Answer, type Answers, type Claim, type Need, rowSet } from './need';
import { type MadeFor, recordKey } from './record';

/** A record that a person makes in place of a rule. */
interface MadeByPerson extends MadeFor {
  readonly maker: CompiledCreate;
  readonly id: string;
  readonly index: number;
}

/** The records among edits that people make in place of rules: as these proposed, or by their button. */
export const madeByPeople = ({ turns }: Plan, edits: readonly Edit[]): MadeByPerson[] =>
  edits.flatMap((edit, index) => {
    if (edit.kind !== 'create' || !edit.madeFor) return [];
    const { madeFor } = edit;
    const maker = turns.filter(isCreate).find(({ id }) => id === madeFor.rule);
    return maker ? [{ ...madeFor, maker, id: edit.id, index }] : [];
  });

/** The records for which these are made: nobody else may make one for them meanwhile. */
export const claimsByPeople = (made: readonly MadeByPerson[]): Claim[] =>
  made.map(({ maker, source }): Claim => ({ type: maker.writes.type, id: source, strength: 'write' }));

/** Why these can't be made: what they are for isn't there, or has its one already. */
export function* checkMadeByPeople(
  model: Model,
  made: readonly MadeByPerson[],
): Generator<Need, EditProblem[], Answer> {
  const problems: EditProblem[] = [];
  for (const { maker, source, index } of made) {
    const { type } = maker.writes;
    const { rows }: Answers['records'] = yield* ask<'records'>({
      kind: 'records',
      set: rowSet(type, [source]),
    });
    const row = rows.get(source);
    const { name } = typeIn(model, maker.makes);
    const say = (code: string, message: string) =>
      void problems.push({ code, message, place: 'madeFor', index });
    if (!row || row.deleted)
      say(
        'edit.gone',
        `The ${typeIn(model, type).name} for which this ${name} would be made isn’t there any more. Reload to see what is.`,
      );
    else if (maker.definition.each === 'once') {
      const known: Answers['made'] = yield* ask<'made'>({
        kind: 'made',
        rule: maker,
        by: 'source',
        ids: [source],
      });
      if (known.length > 0)
        say(
          'edit.made',
          `“${maker.name}” has made its ${name} for “${titleOf(model, row)}” already, and makes one for each. Open that one; it may be in the bin.`,
        );
    }
  }
  return problems;
}

/** Where a run is undone that made records by a rule, they go with those that they were made for: they may come back with these. */
export function* takenBack(
  { turns }: Plan,
  entries: ReadonlyMap<string, Entry>,
): Generator<Need, ReadonlyMap<string, Entry>, Answer> {
  const back = new Map(entries);
  for (const rule of turns.filter(isCreate)) {
    const gone = [...entries.values()].filter(
      ({ kind, type, deletedWith, id }) => kind === 'delete' && type === rule.makes && deletedWith?.id === id,
    );
    if (gone.length === 0) continue;
    const ids = gone.map(({ id }) => id);
    const made: Answers['made'] = yield* ask<'made'>({ kind: 'made', rule, by: 'made', ids });
    for (const { source, made: id } of made) {
      const key = recordKey({ type: rule.makes, id });
      back.set(key, { ...back.get(key)!, deletedWith: { type: rule.writes.type, id: source } });
    }
  }
  return back;
}
