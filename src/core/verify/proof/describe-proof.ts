import type { NameOf, RunContext } from '@/core/expression';
import { type Model, fieldIn } from '@/core/model';
import { usesRunContext } from '@/core/rules';
import { displayValue, type WireValue, itemAt } from '@/core/values';
import { editWords, givesWords, recordWords, titlesIn, type Titles, wordsOfCell } from './case-words';
import { resultWords } from './propose-expectations';
import { endedThrough, type Expectation, type Proof, readyProof, type ReadyProof, wireAt } from './proof';
import type { PlannedRules } from '@/core/verify/rehearsal/planned-rules';
import type { ProofRun } from '@/core/verify/rehearsal/run-through';
import { type Standpoint, runScheduleOf } from '@/core/verify/rehearsal/run-schedule';

/** What a proof expects of one field: what stood there before its edits, what stands there after, and what must. */
export interface DescribedCell {
  readonly what: string;
  readonly before: string;
  readonly after: string;
  readonly expected: string;
  readonly isHeld: boolean;
}

/** A proof for people who don't know rules: what is done, and what comes of it. */
export interface ProofDescription {
  readonly id: string;
  readonly name: string;
  /** The day on which it takes place. */
  readonly day: string;
  /** Whether the rule acts in it, or leaves everything as it is. */
  readonly sort: CaseSort;
  /** The records that it begins with, as far as they hold something; `left` more aren't told. */
  readonly given: readonly string[];
  readonly left: number;
  /** What is done, save by save. Nothing where records only stand there. */
  readonly saves: readonly (readonly string[])[];
  readonly cells: readonly DescribedCell[];
  /** What else must come of it: what is made, proposed, refused. */
  readonly also: readonly string[];
  readonly isHeld: boolean;
  /** What came instead, where it doesn't hold. */
  readonly says: readonly string[];
}

/** A case in which a rule acts, or one in which it must not. A set of proofs needs both. */
export type CaseSort = 'acts' | 'leaves';

/**
 * Which of the two a case is: it acts where something becomes, is made or is proposed, and where records only stand there, which shows what
 * a rule gives. In any other nothing may come of the edits.
 */
export function caseSort({
  expectations,
  runs,
}: {
  readonly expectations: readonly Expectation[];
  readonly runs: readonly unknown[];
}): CaseSort {
  if (runs.length === 0) return 'acts';
  return expectations.some(({ kind }) => kind === 'becomes' || kind === 'isMade' || kind === 'isProposed')
    ? 'acts'
    : 'leaves';
}

/** What a proof expects, in words, one by one; of what isn't in the model any more only that. */
export function expectedWords(model: Model, proof: Proof, nameOf: NameOf): string[] {
  const titles = titlesOf(model, proof, nameOf);
  return proof.expectations.map((one) =>
    'field' in one && !model.field(one.type, one.field)
      ? 'Something of a field that isn’t in the model any more'
      : givesWords(one, { model, titles, would: null, isAtRest: proof.runs.length === 0 }),
  );
}

/** What the records of a proof are called, those that its edits make, and people. */
function titlesOf(model: Model, { family, runs, people }: Proof, nameOf: NameOf): Titles {
  const known = Object.fromEntries(people.map((id) => [id, nameOf(id) ?? 'somebody']));
  const isThere = ({ type }: { readonly type: string }) => model.type(type) !== undefined;
  const rows = family.records.filter(isThere);
  return titlesIn(
    model,
    { rows, runs: runs.map((run) => run.filter(isThere)) },
    { ...known, ...family.names },
  );
}

/** Tells a proof as it goes through rules. */
export function describeProof(
  model: Model,
  rules: PlannedRules,
  proof: Proof,
  nameOf: NameOf,
): ProofDescription {
  const ready = readyProof(model, proof);
  const { result, ended } = endedThrough(ready, rules);
  const titles = titlesOf(model, proof, nameOf);
  const isAtRest = proof.runs.length === 0;
  const points = runScheduleOf(proof.runs.length, proof.day, proof.settings);
  const begun = { day: proof.day, facts: { person: null } };
  const isByWhom = rules.on(ready.model).plan.turns.some(usesRunContext);
  const missed = result.kind === 'missed' ? result.missed : [];
  const isMissed = (one: Expectation) => missed.some(({ expectation }) => expectation === one);
  const rows = ended
    ? ready.model.types.flatMap(({ key }) => [...ready.records.rows(key)].filter((row) => !row.deleted))
    : [];
  // Of what doesn't fit the model any more nothing can be told.
  return {
    ...{ id: proof.id, name: proof.name, day: proof.day, sort: caseSort(proof) },
    given: rows.slice(0, MOST_GIVEN).map((row) => recordWords(ready.model, row, titles)),
    left: Math.max(0, rows.length - MOST_GIVEN),
    saves: ended
      ? proof.runs.map((run, at) => [
          ...standingWords(itemAt(points, at), points[at - 1] ?? begun, { titles, isByWhom }),
          ...run.map((edit) => editWords(ready.model, edit, titles)),
        ])
      : [],
    cells: ended
      ? proof.expectations.flatMap((one) =>
          'field' in one ? [cellTold(ready, ended, { one, titles, isHeld: !isMissed(one) })] : [],
        )
      : [],
    also: ended
      ? proof.expectations
          .filter((one) => !('field' in one))
          .map((one) => givesWords(one, { model, titles, would: null, isAtRest }))
      : [],
    isHeld: result.kind === 'held',
    says: resultWords(model, proof, result, (id) => titles.get(id) ?? nameOf(id)),
  };
}

/** On which day a save is made, where it is another one, and by whom, where that matters: `On 4 Mar 2027`, `Person B acts`. */
function standingWords(
  { day, facts: { person } }: Standpoint,
  before: { readonly day: string; readonly facts: Pick<RunContext, 'person'> },
  { titles, isByWhom }: { readonly titles: Titles; readonly isByWhom: boolean },
): string[] {
  const isAnother = person !== before.facts.person;
  return [
    ...(day === before.day ? [] : [`On ${displayValue({ kind: 'date' }, day)}`]),
    ...(isAnother && person !== null && isByWhom ? [`${titles.get(person) ?? 'Somebody'} acts`] : []),
  ];
}

/** Most records that are told of a proof's family. */
const MOST_GIVEN = 12;

interface CellExpected {
  readonly one: Extract<Expectation, { readonly field: string }>;
  readonly titles: Titles;
  readonly isHeld: boolean;
}

function cellTold(
  { model }: ReadyProof,
  ended: ProofRun,
  { one, titles, isHeld }: CellExpected,
): DescribedCell {
  const field = fieldIn(model, one.type, one.field);
  const words = (value: WireValue) => wordsOfCell(field.type, value, titles);
  return {
    what: `${field.name} of ${titles.get(one.id) ?? 'a record that isn’t there'}`,
    before: words(wireAt(model, ended.base, one)),
    after: words(wireAt(model, ended.store, one)),
    expected: words(one.value),
    isHeld,
  };
}
