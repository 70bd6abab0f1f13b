export { checkModel } from './check-model';
export {
  fieldIn,
  follow,
  readModel,
  typeIn,
  type Field,
  type Link,
  type LinkRef,
  type Model,
  type ModelDefinition,
  type RecordType,
} from './model';
