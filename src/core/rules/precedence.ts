import { type AnyCompiled, isCreate, isReactingCascade, isReacting } from './rule';
import { part, type SentencePart, words } from './sentence-parts';

/** The most that a precedence may be. */
export const LAST_PRECEDENCE = 99;

/** Where a rule comes among others that react into the same field: 1 is the first; without one it is the last. */
export const precedenceOf = ({ definition }: Pick<AnyCompiled, 'definition'>): number =>
  ('precedence' in definition ? definition.precedence : undefined) ?? LAST_PRECEDENCE + 1;

/** Whether two rules react into one field at the same moment: of what both would write in a run one stands. */
export function competeForField(a: AnyCompiled, b: AnyCompiled): boolean {
  if (a.id === b.id || isCreate(a) || isCreate(b)) return false;
  if (a.writes.type !== b.writes.type || a.writes.field !== b.writes.field) return false;
  if (isReactingCascade(a) && isReactingCascade(b)) return a.moment.kind === b.moment.kind;
  return (isReactingCascade(a) || isReacting(a)) && (isReactingCascade(b) || isReacting(b));
}

/** Whether another of some rules competes with one for its field. */
export const hasRivals = (rules: readonly AnyCompiled[], rule: AnyCompiled): boolean =>
  rules.some((other) => competeForField(other, rule));

const NTH = ['first', 'second', 'third'];
const ENDINGS = ['th', 'st', 'nd', 'rd'];

/** `4th`, `11th`, `21st`, `102nd`. */
const ordinal = (number: number): string =>
  `${number}${(Math.floor(number / 10) % 10 === 1 ? undefined : ENDINGS[number % 10]) ?? 'th'}`;

/** `first`, `second`, `4th`, `21st`, `last`. */
export const precedenceWords = (precedence: number | null): string =>
  precedence === null ? 'last' : (NTH[precedence - 1] ?? ordinal(precedence));

/** `Of several rules it comes first. ` */
export function precedenceParts({ definition }: Pick<AnyCompiled, 'definition'>): SentencePart[] {
  const precedence = 'precedence' in definition ? definition.precedence : undefined;
  if (precedence === undefined) return [];
  return [words('Of several rules it comes '), part('precedence', precedenceWords(precedence)), words('. ')];
}
