/** The workspace has moved on since this process compiled it: roll back, load, try again. */
export class EpochMoved extends Error {}

/** PostgreSQL's codes for a deadlock and for a serialization failure. */
export const isConflict = (error: unknown): boolean => ['40P01', '40001'].includes(codeOf(error) ?? '');

export const codeOf = (error: unknown): string | undefined => {
  const { code, parent } = error as { code?: string; parent?: { code?: string } };
  return code ?? parent?.code;
};

/** PostgreSQL's codes for a table, a column and a schema that aren't there, and for a value that a new column must have. */
const OF_OTHER_MODEL = new Set(['42P01', '42703', '3F000', '23502']);

/** Whether a statement was written for another model than the one that is there now: what it is for is begun anew. */
export const isOfOtherModel = (error: unknown): boolean => OF_OTHER_MODEL.has(codeOf(error) ?? '');

/** Whether a value stands elsewhere already that must be there once: a record of the same id, which two runs made at once, or of the same unique value. */
export const isClash = (error: unknown): boolean => codeOf(error) === '23505';
