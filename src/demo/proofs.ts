import { emptyRow, type WireEdit } from '@/core/engine';
import { readModel, fieldIn } from '@/core/model';
import type { Rule } from '@/core/rules';
import { parseValue, type WireValue } from '@/core/values';
import { BY_ONE, type Expectation, madeUpFamily, type Proof, type RunSetting } from '@/core/verify';
import { COMPLETED } from './rules/cascades';
import { WRENFIELD } from './model';
import stored from './proofs.json';
import { RULES } from './rules/rules';

/** The settled day of all the demo's proofs. */
export const DAY = '2027-03-01';

/** A proof as it is kept with the demo: `rule` is the id that `demoRules` gives it. */
export interface DemoProof {
  readonly rule: string;
  readonly name: string;
  /** Without what is empty. */
  readonly records: readonly {
    readonly type: string;
    readonly id: string;
    readonly values: Readonly<Record<string, WireValue>>;
  }[];
  readonly runs: readonly (readonly WireEdit[])[];
  /** Left out, somebody made up makes all its runs on its day. */
  readonly settings?: readonly RunSetting[];
  readonly expectations: readonly Expectation[];
}

const ruleId = (at: number): string => `00000000-0000-7000-b000-${String(at + 1).padStart(12, '0')}`;

/** The demo's rules with ids by their place. */
export const demoRules = (): Rule[] =>
  RULES.map(({ definition, name }, at) => ({
    ...{ id: ruleId(at), version: ruleId(at), name: name ?? `Rule ${at + 1}`, definition },
  }));

/** Rules for which the demo has no proofs, so that it shows how one begins. */
export const UNPROVEN: readonly string[] = RULES.flatMap(({ definition }, at) =>
  (definition.kind === 'cascade' && definition.assignments.some(({ target }) => target === 'climate')) ||
  (definition.kind === 'rollUp' && definition.target === 'averageFee')
    ? [ruleId(at)]
    : [],
);

const LOOKED_AT = '00000000-0000-7000-8001-000000000001';
const [PERSON_A, PERSON_B] = ['00000000-0000-7000-a000-000000000001', '00000000-0000-7000-a000-000000000002'];
const completed = (isSo: boolean): readonly WireEdit[] => [
  { kind: 'edit', type: 'inspection', id: LOOKED_AT, values: { completed: isSo } },
];

/** Written by hand: of who completes an inspection, on several days and by several people. */
const LATER: DemoProof = {
  rule: ruleId(RULES.indexOf(COMPLETED)),
  name: 'Completed again by somebody else, days later: the first stands',
  records: [
    { type: 'artefact', id: '00000000-0000-7000-8001-000000000002', values: { title: 'Artefact A' } },
    {
      ...{ type: 'inspection', id: LOOKED_AT },
      values: { title: 'Inspection A', artefact: '00000000-0000-7000-8001-000000000002' },
    },
  ],
  runs: [completed(true), completed(false), completed(true)],
  settings: [
    { run: 0, person: PERSON_B },
    { run: 1, person: PERSON_A, day: '2027-03-04' },
  ],
  expectations: [
    { kind: 'becomes', type: 'inspection', id: LOOKED_AT, field: 'inspector', value: PERSON_B! },
    { kind: 'becomes', type: 'inspection', id: LOOKED_AT, field: 'completedOn', value: DAY },
  ],
};

/** The demo's proofs; `idOf` gives the id of a rule in the workspace by that of `demoRules`. */
export function demoProofs(idOf: (rule: string) => string = (rule) => rule): Omit<Proof, 'id'>[] {
  const model = readModel(WRENFIELD, DAY);
  const all = [...(stored as unknown as readonly DemoProof[]), LATER];
  return all.map(({ rule, name, records, runs, settings = BY_ONE, expectations }) => {
    const rows = records.map(({ type, id, values }) => {
      const row = emptyRow(model, { type, id });
      const read = Object.entries(values).map(([key, wire]) => {
        const parsed = parseValue(fieldIn(model, type, key).type, wire);
        if (!parsed.ok) throw new RangeError(`${name}: ${parsed.problem.message}`);
        return [key, parsed.value] as const;
      });
      return { ...row, values: { ...row.values, ...Object.fromEntries(read) } };
    });
    const family = madeUpFamily(model, rows);
    return {
      ...{ rule: idOf(rule), name, family, day: DAY, people: Object.keys(family.names), runs, settings },
      expectations: expectations.map((one) => ('rule' in one ? { ...one, rule: idOf(one.rule) } : one)),
    };
  });
}
