import { emptyRow, type WireEdit } from '@/core/engine';
import { readModel, fieldIn } from '@/core/model';
import type { Rule } from '@/core/rules';
import { parseValue, type WireValue } from '@/core/values';
import { type Expectation, madeUpFamily, type Proof } from '@/core/verify';
import { WRENFIELD } from './model';
import stored from './proofs.json';
import { RULES } from './rules';

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

/** The demo's proofs; `idOf` gives the id of a rule in the workspace by that of `demoRules`. */
export function demoProofs(idOf: (rule: string) => string = (rule) => rule): Omit<Proof, 'id'>[] {
  const model = readModel(WRENFIELD, DAY);
  return (stored as unknown as readonly DemoProof[]).map(({ rule, name, records, runs, expectations }) => {
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
      ...{ rule: idOf(rule), name, family, day: DAY, people: Object.keys(family.names), runs },
      expectations: expectations.map((one) => ('rule' in one ? { ...one, rule: idOf(one.rule) } : one)),
    };
  });
}
