import type { ProblemCode, Problem } from '@/core/values';

/** What the API refused, from its problem details (RFC 9457). */
export class ApiProblem extends Error {
  constructor(
    readonly status: number,
    readonly code: ProblemCode,
    readonly title: string,
    detail: string,
    readonly errors: readonly (Problem & { readonly index?: number })[],
  ) {
    super(detail);
    this.name = 'ApiProblem';
  }
}

export const serverAway = (): ApiProblem =>
  new ApiProblem(
    0,
    'server.away',
    'Oikon can’t be reached',
    'The server doesn’t answer. Check that it runs; what you typed is still here.',
    [],
  );

/** What an answer that isn't success says, from its problem details. */
export function problemOf(status: number, answer: unknown): ApiProblem {
  const problem = (answer ?? {}) as Partial<{
    code: ProblemCode;
    title: string;
    detail: string;
    errors: Problem[];
  }>;
  return new ApiProblem(
    status,
    problem.code ?? 'internal',
    problem.title ?? 'Something went wrong',
    problem.detail ?? 'Try again.',
    problem.errors ?? [],
  );
}

/** Whether it is no answer but that there is none, for now: asked again it may go well. */
export const isAway = (error: Error | null): boolean =>
  error instanceof ApiProblem && (error.status === 0 || error.status === 503);
