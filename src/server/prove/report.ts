import { certain } from '@/core/values';
import builder from 'junit-report-builder';
import { type ProposedCase, shareOf } from '@/core/verify';
import type { ProvenRule } from './run-proofs';

/** Whether a rule's proofs notice as large a share of the ways to change it as is asked, in hundredths. */
export const isStrong = ({ strength }: ProvenRule, least: number): boolean =>
  !strength || (shareOf(strength) ?? 100) >= least;

/** How strong the proofs of a rule are, and what none of them would notice. */
function strengthLines({ name, strength }: ProvenRule): string[] {
  if (!strength) return [];
  const { tried, noticed, cases, undecided } = strength;
  if (tried === 0) return [`  ${name}: nothing to change that may matter`];
  const caseLines = ({ records, edits, gives, notices }: ProposedCase): string[] => [
    `    ${[...records, ...edits, ...gives].join(' · ')}`,
    ...notices.map((one) => `      would notice: ${one}`),
  ];
  return [
    `  ${name}: ${noticed} of ${tried} changes noticed (${shareOf(strength)} %)`,
    ...cases.flatMap(caseLines),
    ...undecided.map((one) => `    noticed by no proof, and by no case that was made up: ${one}`),
  ];
}

/** Why a rule's proofs are too weak. */
const weakness = (rule: ProvenRule, least: number): string =>
  `Proofs notice ${shareOf(certain(rule.strength))} % of the ways to change “${rule.name}”; at least ${least} % is asked.`;

/** What a person reads: each proof that doesn't hold with what came instead, rules that none covers, and how many hold. */
export function reportOf(rules: readonly ProvenRule[], least: number | null = null): string {
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
  if (least !== null) {
    lines.push('', 'How strong proofs are:', ...rules.flatMap(strengthLines));
    lines.push(...rules.filter((rule) => !isStrong(rule, least)).map((rule) => weakness(rule, least)));
  }
  const all = rules.flatMap(({ proofs }) => proofs);
  const held = all.filter(({ isHeld }) => isHeld).length;
  lines.push('', `${held} of ${all.length} proofs hold.`);
  return `${lines.join('\n')}\n`;
}

/** The same for a pipeline: a suite for each rule, a case for each proof (JUnit's XML). */
export function junitOf(rules: readonly ProvenRule[], least: number | null = null): string {
  const report = builder.newBuilder();
  for (const rule of rules) {
    const { name, proofs, strength } = rule;
    const isJudged = least !== null && strength !== undefined;
    if (proofs.length === 0 && !isJudged) continue;
    const suite = report.testSuite().name(name);
    for (const proof of proofs) {
      const one = suite
        .testCase()
        .className(name)
        .name(proof.name)
        .time(Math.round(proof.took) / 1_000);
      if (!proof.isHeld) one.failure(proof.says.join('\n'));
    }
    if (!isJudged) continue;
    const judged = suite.testCase().className(name).name(`proofs notice at least ${least} % of its changes`);
    if (!isStrong(rule, least)) judged.failure(weakness(rule, least));
  }
  return report.build();
}
