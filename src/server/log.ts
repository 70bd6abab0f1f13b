import { pino } from 'pino';

/** What is told of an error: nothing of the rows that it is about. PostgreSQL says these in its detail, and quotes values in what it can't read. */
export function errorForLog(error: unknown): Record<string, unknown> {
  if (!(error instanceof Error)) return { message: String(error) };
  const { code, constraint, table, column, severity, routine, parent, cause } = error as Error &
    Record<string, unknown>;
  const told = { code, constraint, table, column, severity, routine };
  const inner = parent instanceof Error && parent !== error ? parent : cause instanceof Error ? cause : null;
  const message = withoutValues(error.message);
  return {
    type: error.name,
    message,
    stack: error.stack?.replace(error.message, message),
    ...Object.fromEntries(Object.entries(told).filter(([, value]) => value !== undefined)),
    ...(inner ? { cause: errorForLog(inner) } : {}),
  };
}

/** `invalid input syntax for type numeric: "12,5"` without what was read. */
const withoutValues = (message: string): string =>
  message.replace(/((?:invalid|malformed|out of range)[^"]*?):? "(?:[^"]|"(?!$))*"$/s, '$1: …');

/** What an operator should know, one JSON line each. */
export const log = pino({
  name: 'oikon',
  level: process.env.LOG_LEVEL ?? 'info',
  serializers: { err: errorForLog },
});
