import type { ProblemCode } from '@/core/values';
import { type Model, typeIn } from '@/core/model';
import type { Plan } from '@/core/plan';
import { type CompiledCreate, isCreate } from '@/core/rules';
import { titleOf } from './apply-edits';
import type { EditProblem, Edit } from './types';
import { ask, type Answer, type Answers, type Claim, type Need, rowSet } from '@/core/engine/driver/need';
import type { MadeFor } from '@/core/engine/driver/record';

/** A record that a person makes in place of a rule. */
interface MadeByPerson extends MadeFor {
  readonly maker: CompiledCreate;
  readonly id: string;
  readonly index: number;
}

/** The records among edits that people make in place of rules: as these proposed, or by their button. */
export const createByPerson = ({ turns }: Plan, edits: readonly Edit[]): MadeByPerson[] =>
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
    const say = (code: ProblemCode, message: string) =>
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
