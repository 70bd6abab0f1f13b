import type { AnyCompiled } from '@/core/rules';

/** Whether what a run over many made or changed, of these types, may matter to a rule. */
export const isReachedByTypes = (rule: AnyCompiled, touched: ReadonlySet<string>): boolean =>
  rule.reads.some((read) => touched.has(read.type)) ||
  (rule.kind === 'linked' && rule.among?.reads.some(({ type }) => touched.has(type)) === true) ||
  (rule.rates !== null && touched.has(rule.rates.type)) ||
  (rule.kind !== 'rollUp' && touched.has(rule.writes.type));
