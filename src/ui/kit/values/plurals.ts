import pluralize from 'pluralize';

/** `Tenancy` → `Tenancies`: what several are called, until somebody says otherwise. */
export const pluralOf = (name: string): string => (name.trim() === '' ? '' : pluralize.plural(name.trim()));

/** `Tenancies` → `Tenancy`. */
export const singularOf = (plural: string): string =>
  plural.trim() === '' ? '' : pluralize.singular(plural.trim());
