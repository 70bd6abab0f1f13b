import { itemAt } from '@/core/values';
import { readModel } from '@/core/model';
import type { Rule } from '@/core/rules';
import { caseName, strengthOf } from '@/core/verify';
import { writeFileSync } from 'node:fs';
import { WRENFIELD } from './model';
import { DAY, type DemoProof, demoRules, UNPROVEN } from './proofs';
import { RULES } from './rules/rules';

const FILE = 'src/demo/proofs.json';

/** Writes the demo's proofs: of each rule the cases without which a change of it wouldn't be noticed. Run it again once rules change. */
function main(): void {
  const model = readModel(WRENFIELD, DAY);
  const rules = demoRules();
  const proofs = rules.flatMap((rule, at) => {
    if (itemAt(RULES, at).state !== 'live' || UNPROVEN.includes(rule.id)) return [];
    return casesOf(rule);
  });
  // A proof a line, so that it can be seen which became another.
  writeFileSync(FILE, `[\n${proofs.map((proof) => JSON.stringify(proof)).join(',\n')}\n]\n`);
  console.log(`${proofs.length} proofs`);

  function casesOf(rule: Rule): DemoProof[] {
    const run = strengthOf({ model, rules, rule, proofs: [] });
    let step = run.next();
    while (!step.done) step = run.next();
    const { cases, undecided } = step.value;
    console.log([`${rule.name}: ${cases.length}`, ...undecided].join('; undecided: '));
    const names: string[] = [];
    return cases.map((one) => {
      const name = caseName(one, names);
      names.push(name);
      const records = one.family.records.map(({ type, id, values }) => ({
        ...{ type, id },
        values: Object.fromEntries(Object.entries(values).filter(([, value]) => value !== null)),
      }));
      return { rule: rule.id, name, records, runs: one.runs, expectations: one.expectations };
    });
  }
}

main();
