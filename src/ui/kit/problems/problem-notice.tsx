'use client';

import { useQuery } from '@tanstack/react-query';
import { AskApproval } from './ask-approval';
import { ApiProblem } from '@/ui/api/problem';

/** Milliseconds after which it is asked again whether the server is back. */
const ASKED_AGAIN = 3_000;

/** What went wrong, where, and what to do; several problems are listed. That the server was away goes once it is back. */
export function ProblemNotice({ error }: { error: Error | null }) {
  if (!error) return null;
  if (error instanceof ApiProblem && error.status === 0) return <Away key={error.message} error={error} />;
  return <Problems error={error} />;
}

function Problems({ error }: { error: Error }) {
  const errors =
    error instanceof ApiProblem && error.errors.length > 1
      ? error.errors.map(({ message }) => message)
      : [error.message];
  return (
    <div role="alert">
      {errors.map((message) => (
        <p key={message} className="finding">
          {message}
        </p>
      ))}
      {error instanceof ApiProblem && error.asked ? <AskApproval asked={error.asked} /> : null}
    </div>
  );
}

/** Nothing answered; as soon as something does, that it didn't is no news any more. */
function Away({ error }: { error: Error }) {
  const { data: isBack } = useQuery({
    queryKey: ['health', error.message],
    queryFn: async () => (await fetch('/health', { cache: 'no-store' })).ok,
    refetchInterval: ({ state }) => (state.data ? false : ASKED_AGAIN),
    retry: false,
    gcTime: 0,
  });
  return isBack ? (
    <p role="status" className="quiet">
      The server answers again. What you entered still stands here: try once more.
    </p>
  ) : (
    <Problems error={error} />
  );
}
