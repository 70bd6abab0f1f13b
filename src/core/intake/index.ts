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
export { type ProposedField, type ProposedType, proposeType, typeForKind } from './propose-type';
export { PLAIN_FORMS, readText, type TextForms } from './read-text';
