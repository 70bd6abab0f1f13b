import builder from 'junit-report-builder';
import type { ProvenRule } from './run-proofs';

/** What a person reads: each proof that doesn't hold with what came instead, rules that none covers, and how many hold. */
export function reportOf(rules: readonly ProvenRule[]): string {
  const lines: string[] = [];
  for (const { name, proofs } of rules) {
    if (proofs.length === 0) continue;
    lines.push(name);
    for (const proof of proofs) {
      lines.push(`  ${proof.isHeld ? 'holds    ' : 'DOESN’T  '} ${proof.name}`);
      for (const line of proof.says) lines.push(`             ${line}`);
    }
  }
  const bare = rules.filter(({ proofs }) => proofs.length === 0);
  if (bare.length > 0)
    lines.push('', `No proof covers ${bare.length === 1 ? 'this rule' : `these ${bare.length} rules`}:`);
  for (const { name } of bare) lines.push(`  ${name}`);
  const all = rules.flatMap(({ proofs }) => proofs);
  const held = all.filter(({ isHeld }) => isHeld).length;
  lines.push('', `${held} of ${all.length} proofs hold.`);
  return `${lines.join('\n')}\n`;
}

/** The same for a pipeline: a suite for each rule, a case for each proof (JUnit's XML). */
export function junitOf(rules: readonly ProvenRule[]): string {
  const report = builder.newBuilder();
  for (const { name, proofs } of rules) {
    if (proofs.length === 0) continue;
    const suite = report.testSuite().name(name);
    for (const proof of proofs) {
      const one = suite
        .testCase()
        .className(name)
        .name(proof.name)
        .time(Math.round(proof.took) / 1_000);
      if (!proof.isHeld) one.failure(proof.says.join('\n'));
    }
  }
  return report.build();
}
