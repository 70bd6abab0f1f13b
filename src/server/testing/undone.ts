import type { UndoView } from '@/core/api';

/** What an undo does, or did, by numbers. */
export const undone = ({ written, records, leftCount }: UndoView) => {
  const of = (what: 'deleted' | 'restored') =>
    records.filter(({ kind }) => kind === what).reduce((sum, one) => sum + one.records, 0);
  return {
    written: written.reduce((sum, one) => sum + one.records, 0),
    ...{ deleted: of('deleted'), restored: of('restored'), left: leftCount },
  };
};

/** What stays, and why. */
export const leftWhy = ({ left }: UndoView): string[] =>
  left
    .map(
      ({ title, fieldName, reason }) => `${fieldName === null ? '' : `${fieldName} of `}${title}: ${reason}`,
    )
    .sort();
