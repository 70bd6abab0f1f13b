export {
  canBeKey,
  canFind,
  checkImportPlan,
  foundBy,
  type ImportColumn,
  type ImportPlan,
  type KeeperName,
  proposeColumns,
  proposeKey,
} from './import-plan';
export { type CsvParser, csvRecords, NotATable } from './csv-records';
export { cellValue, sheetLines, type SheetLines } from './sheet-lines';
export {
  type Known,
  type NamedTable,
  type ProposedField,
  type ProposedType,
  proposeType,
  proposeTypes,
  typeForKind,
} from './propose-type';
export {
  BUNDLE_FORMAT,
  BUNDLE_VERSION,
  type Bundle,
  type BundleHead,
  type BundleProof,
  type BundleRecord,
  type BundleRequest,
  type BundleRule,
  bundleText,
  openBundle,
} from './bundle';
export {
  compareBundles,
  type Difference,
  type DifferenceSection,
  type Merge,
  mergeOf,
} from './compare-bundles';
