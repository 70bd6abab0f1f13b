import { valueAt, type WireValue } from '@/core/values';
import type { NameOf } from '@/core/expression';
import { arrive, fieldIn, type Model } from '@/core/model';
import type { RuleDefinition } from '@/core/rules';
import { wordsOfValue } from '@/core/verify/family/value-words';
import type { WireRecord } from '@/core/verify/family/family';
import type { Expectation, Missed, Proof, ProofResult } from './proof';
import type { Rehearsal } from '@/core/verify/rehearsal/rehearse';
import type { ChangeView } from '@/core/verify/explain/views';

/** What a rehearsal gave, as what may be expected of it again. */
export interface ProposedExpectation {
  readonly expectation: Expectation;
  readonly words: string;
  /** It is about what the proof's rule does; else it is another rule's. */
  readonly isOwn: boolean;
}

interface Rehearsed {
  readonly rule: { readonly id: string; readonly definition: RuleDefinition };
  /** Save by save; of one that is refused it is the last. */
  readonly rehearsals: readonly Rehearsal[];
  /** Members of the family as they would stand, without what rules made. */
  readonly records: readonly WireRecord[];
  readonly nameOf: NameOf;
}

/** Most that is proposed to stay as it is. */
const MOST_STAYING = 20;

/**
 * What may be expected of a rehearsal: what became of fields, what was made, where the rule wrote nothing although it could, or why it is
 * refused. What lies on records that rules made has no lasting name, so it isn't proposed.
 */
export function proposeExpectations(
  model: Model,
  { rule, rehearsals, records, nameOf }: Rehearsed,
): ProposedExpectation[] {
  const last = rehearsals.at(-1);
  if (!last || last.kind === 'unsound') return [];
  if (last.kind === 'refused')
    return last.edits.slice(0, 1).map(({ code, message }) => ({
      ...{ expectation: { kind: 'isRefused', run: rehearsals.length - 1, code }, isOwn: true },
      words: `It is refused: ${message}`,
    }));
  const known = new Map(records.map((record) => [record.id, record]));
  const done = rehearsals.flatMap((one) => (one.kind === 'done' ? [one] : []));
  const isStaged = done.some(({ ripple }) =>
    ripple.waves.some(({ number, changes }) => number === 0 && changes.length > 0),
  );
  // What a draft fills before any edit is no answer to the edits: it stays. Where nothing is staged it is all that there is to expect.
  const followed = done
    .flatMap(({ filled, ripple }) => [...(isStaged ? [] : (filled?.waves ?? [])), ...ripple.waves])
    .filter(({ number }) => number > 0)
    .flatMap(({ changes }) => changes);
  const final = new Map<string, ChangeView>();
  for (const change of followed) final.set(`${change.id} ${change.field}`, change);
  const came = [...final.values()].flatMap((change): ProposedExpectation[] => {
    const isOwn = change.rule?.id === rule.id;
    if (change.kind === 'created') return isOwn ? (madeOf(change) ?? []) : [];
    if (change.kind !== 'field' || change.problem !== null || !known.has(change.id)) return [];
    const { type, id, field, fieldName, title, after } = change;
    return [
      {
        expectation: { kind: 'becomes', type, id, field, value: after?.wire ?? null },
        ...{ words: `${fieldName} of ${title} becomes ${after?.text ?? 'empty'}`, isOwn },
      },
    ];
  });
  const staying = targetsOf(model, rule.definition).flatMap(({ type, field }) =>
    records
      .filter((record) => record.type === type && !record.deleted && !record.errors[field])
      .filter(({ id }) => !final.has(`${id} ${field}`))
      .map((record): ProposedExpectation => {
        const value = record.values[field] ?? null;
        return {
          expectation: { kind: 'stays', type, id: record.id, field, value },
          words: `${fieldIn(model, type, field).name} of ${titleIn(model, record)} stays ${shown(model, type, field, value, nameOf)}`,
          isOwn: true,
        };
      }),
  );
  return [...came.sort((a, b) => Number(b.isOwn) - Number(a.isOwn)), ...staying.slice(0, MOST_STAYING)];
}

function madeOf({ rule, causes, typeName }: ChangeView): ProposedExpectation[] | null {
  const [cause] = causes;
  if (!rule || !cause) return null;
  return [
    {
      expectation: { kind: 'isMade', rule: rule.id, source: cause.id, values: {} },
      ...{ words: `${typeName} is made for ${cause.title}`, isOwn: true },
    },
  ];
}

/** The fields that a rule writes. */
function targetsOf(model: Model, rule: RuleDefinition): { readonly type: string; readonly field: string }[] {
  if (rule.kind === 'create') return [];
  if (rule.kind !== 'cascade') return [{ type: rule.type, field: rule.target }];
  const type = arrive(model, rule.type, rule.route);
  if (type === undefined) return [];
  return rule.assignments.filter(({ isOff }) => !isOff).map(({ target }) => ({ type, field: target }));
}

const titleIn = (model: Model, { type, values }: WireRecord): string =>
  String(values[model.type(type)?.title ?? ''] ?? '');

function shown(model: Model, type: string, field: string, value: WireValue, nameOf?: NameOf): string {
  const of = model.field(type, field)?.type;
  return of ? wordsOfValue(of, value, nameOf) : String(value);
}

/** What of a proof didn't come true, or what is in the way of running it, in words; nothing where it holds. */
export function resultWords(model: Model, proof: Proof, result: ProofResult, nameOf?: NameOf): string[] {
  switch (result.kind) {
    case 'held':
      return [];
    case 'missed':
      return result.missed.map((one) => missedWords(model, proof, one, nameOf));
    case 'unsound':
      return [...new Set(result.problems.map(({ message }) => message))];
    case 'unfit':
      return [
        'A field, a record type or a rule that it names isn’t in the model any more. Rehearse it again, and keep it then.',
      ];
  }
}

/** What a proof expected, and what was found instead. */
function missedWords(
  model: Model,
  proof: Proof,
  { expectation: one, found }: Missed,
  nameOf?: NameOf,
): string {
  const records = new Map(proof.family.records.map((record) => [record.id, record]));
  const title = (id: string) =>
    records.has(id) ? titleIn(model, valueAt(records, id)) : 'a record that was made';
  const problems = typeof found === 'object' && found !== null && 'problems' in found ? found.problems : null;
  const instead = problems ? `it was refused: ${problems.map(({ message }) => message).join(' ')}` : null;
  if (one.kind === 'isRefused')
    return `It should be refused; ${instead ? `${instead} That is for another reason.` : 'it was saved.'}`;
  if ('field' in one) {
    const cell = (value: WireValue) => shown(model, one.type, one.field, value, nameOf);
    const is = instead ?? `it was ${cell(found as WireValue)}`;
    return `${model.field(one.type, one.field)?.name ?? one.field} of ${title(one.id)} should ${one.kind === 'stays' ? 'stay' : 'become'} ${cell(one.value)}; ${is}.`;
  }
  if (one.kind === 'isNotMade')
    return `Nothing should be made for ${title(one.source)}; ${instead ?? 'it was'}.`;
  if (one.kind === 'isProposed' || one.kind === 'isNotProposed')
    return one.kind === 'isProposed'
      ? `Something should be proposed for ${title(one.source)}; ${instead ?? 'nothing was'}.`
      : `Nothing should be proposed for ${title(one.source)}; ${instead ?? 'it was'}.`;
  if (one.times !== undefined && typeof found === 'number')
    return `${one.times} should be made for ${title(one.source)}; there were ${found}.`;
  return `Something should be made for ${title(one.source)}; ${instead ?? (found === null ? 'nothing was' : 'it was otherwise')}.`;
}
