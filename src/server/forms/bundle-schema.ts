import parse from 'joi-to-json';
import { bundleShape } from './bundle';

/** The form of a bundle as JSON Schema (draft 2019-09), from the form by which bundles are read. */
export const bundleSchema = (): object => ({
  $id: 'urn:oikon:bundle',
  title: 'A workspace of Oikon as one file',
  ...(parse(bundleShape, 'json-draft-2019-09') as object),
});
