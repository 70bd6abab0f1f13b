import type { ProblemCode, Problem } from '@/core/values';

/** What was asked of a route of a workspace. */
export interface Asked {
  readonly route: string;
  readonly body: unknown;
}

/** What the API refused, from its problem details (RFC 9457). */
export class ApiProblem extends Error {
  constructor(
    readonly status: number,
    readonly code: ProblemCode,
    readonly title: string,
    detail: string,
    readonly errors: readonly (Problem & { readonly index?: number })[],
    /** What was asked of the workspace, where somebody else approves that: it is asked for so. */
    readonly asked: Asked | null = null,
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
export function problemOf(status: number, answer: unknown, asked: Asked | null = null): ApiProblem {
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
    problem.code === 'approval.needed' ? asked : null,
  );
}

/** Whether it is no answer but that there is none, for now: asked again it may go well. */
export const isAway = (error: Error | null): boolean =>
  error instanceof ApiProblem && (error.status === 0 || error.status === 503);
