import type { ProblemCode } from './problem-codes';

/**
 * Something wrong in what a person or a client gave: a value, never thrown by the core.
 *
 * `code` is stable and meant for programs; `message` says what was expected, what was found and what to do;
 * `place` names where (a field key, or a path such as `condition.of.0.right`); `data` holds the parts of the message.
 */
export interface Problem {
  readonly code: ProblemCode;
  readonly message: string;
  readonly place?: string;
  readonly data?: Readonly<Record<string, unknown>>;
}

export type Result<T> =
  { readonly ok: true; readonly value: T } | { readonly ok: false; readonly problem: Problem };

export const good = <T>(value: T): Result<T> => ({ ok: true, value });

export const bad = (code: ProblemCode, message: string, data?: Problem['data']): Result<never> => ({
  ok: false,
  problem: { code, message, ...(data ? { data } : {}) },
});

/** Marks a branch that a closed union leaves unreachable; reaching it is a programmer's mistake. */
export function unreachable(value: never): never {
  throw new TypeError(`Unexpected case: ${JSON.stringify(value)}`);
}
