import type { ProblemCode, Problem } from '@/core/values';

/** One of several things wrong with a request, with its place in it. */
export type RefusedPart = Problem & { readonly index?: number; readonly rule?: string };

/**
 * A request that can't be carried out, for a reason that its sender can act on. It becomes a problem detail (RFC 9457):
 * `code` is stable, `message` says what was expected, what was found and what to do.
 */
export class Refusal extends Error {
  constructor(
    readonly status: 400 | 401 | 403 | 404 | 405 | 408 | 409 | 413 | 415 | 422 | 429 | 503,
    readonly code: ProblemCode,
    message: string,
    readonly parts: readonly RefusedPart[] = [],
    readonly data: Readonly<Record<string, unknown>> = {},
  ) {
    super(message);
    this.name = 'Refusal';
  }
}

/** A refusal from the problems that the core found: one is told as it is, several as a list. */
export function refuse(status: Refusal['status'], problems: readonly RefusedPart[]): Refusal {
  const [first] = problems;
  if (!first) throw new RangeError('A refusal needs at least one problem');
  const more = problems.length > 1 ? ` (and ${problems.length - 1} more)` : '';
  return new Refusal(status, first.code, `${first.message}${more}`, problems, first.data ?? {});
}
