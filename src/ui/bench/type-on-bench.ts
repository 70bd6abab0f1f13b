import type { ModelView } from '@/core/api';
import type { RecordType } from '@/core/model';

/** Types under which records of some type hang. */
export const withChildren = (types: readonly RecordType[]): readonly RecordType[] =>
  types.filter(({ key }) =>
    types.some(({ fields }) => fields.some(({ type }) => type.kind === 'link' && type.target === key)),
  );

/** The type whose family the bench shows: the one that is asked for, where it has children; else the one on which most fields are kept by what lies beneath. */
export function typeOnBench(
  { types, keepers }: Pick<ModelView, 'types' | 'keepers'>,
  asked: string | null,
): string | null {
  const offered = withChildren(types);
  if (offered.some(({ key }) => key === asked)) return asked;
  const kept = ({ key }: RecordType) =>
    keepers.filter(({ type, isInStep, isReacting }) => type === key && !isInStep && !isReacting).length;
  const [first = null, ...others] = offered;
  return others.reduce((best, type) => (best && kept(type) > kept(best) ? type : best), first)?.key ?? null;
}
