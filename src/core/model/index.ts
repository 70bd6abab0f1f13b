export { checkModel } from './check-model';
export {
  fieldIn,
  follow,
  readModel,
  typeIn,
  type Field,
  type Link,
  type LinkPolicy,
  type LinkRef,
  type Model,
  type ModelDefinition,
  type RecordType,
} from './model';
