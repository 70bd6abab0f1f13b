import { ApiProblem } from '@/ui/api/client';

/** What went wrong, where, and what to do; several problems are listed. */
export function ProblemNotice({ error }: { error: Error | null }) {
  if (!error) return null;
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
    </div>
  );
}
