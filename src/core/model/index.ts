export { changeModel, type ChangedModel, type ModelChange, type StorageStep } from './change-model';
export { keyOf } from './key-of';
export type { OnRequest, Pace, Timetable } from './pace';
export { checkModel } from './check-model';
export { arrive, typeAlong } from './route';
export {
  routeKey,
  isAllTheWay,
  stepDown,
  stepKey,
  stepsUp,
  type Step,
  type StepDown,
  type StepUp,
  type LinkRef,
} from '@/core/syntax/step';
export {
  fieldIn,
  follow,
  openLinkOf,
  selfLinksOf,
  readModel,
  selectionIn,
  typeIn,
  typeUp,
  type Field,
  type Link,
  type LinkPolicy,
  type Model,
  type ModelDefinition,
  type OpenLink,
  type OptionList,
  type RateFields,
  type RecordType,
  type Section,
  PLAIN_DEFAULTS,
  type RuleDefaults,
  type Selection,
} from './model';
export {
  checkAccess,
  type FieldAccess,
  fieldSeen,
  type Own,
  ownerOf,
  type RoleAccess,
  seenDefinition,
  type SeenType,
  type Sight,
  sightOf,
  type TypeAccess,
} from './sight';
export { kindWords } from './kind-words';
export type { SavedListDefinition } from './saved-list';
