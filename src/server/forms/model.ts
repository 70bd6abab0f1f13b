import type {
  Field,
  LinkPolicy,
  ModelChange,
  OpenLink,
  OptionList,
  RateFields,
  RecordType,
  RuleDefaults,
  Section,
  Selection,
} from '@/core/model';
import type { Option, ValueType } from '@/core/values';
import Joi from 'joi';

import { kept, key, oneOf, shape, shapesByKind, wire } from './parts';
import { defaultPace, limits, rounding } from './rules';
import { expression } from './expression';

const option = shape<Option>({ key: key.required(), name: kept.required() });
const options = Joi.array().items(option).max(500).required();
/** What a field may hold: no field is a bare number of an expression. */
type FieldType =
  | Exclude<ValueType, { readonly kind: 'number' }>
  | Omit<Extract<ValueType, { readonly kind: 'number' }>, 'isBare'>;

const bound = Joi.number().integer().required();
const chosen = { options, list: key };
const valueType = Joi.alternatives().conditional(
  '.kind',
  shapesByKind<FieldType>({
    ...{ text: {}, longText: {}, yesNo: {}, date: {}, dateTime: {}, person: {}, anyMoney: {} },
    number: { scale: bound, unit: kept.max(20) },
    money: { currency: Joi.string().max(3).required() },
    rating: { lowest: bound, highest: bound },
    ...{ choice: chosen, choices: chosen },
    link: { target: key.required() },
    serial: { prefix: kept.max(20).allow('').required(), digits: bound },
  }),
);
const modelField = shape<Field>({
  key: key.required(),
  name: kept.required(),
  type: valueType.required(),
  required: Joi.boolean(),
  unique: Joi.boolean(),
  default: wire,
  help: kept.max(500).allow(''),
  otherEnd: kept,
  whenParentGoes: oneOf<LinkPolicy>({ refuse: true, clear: true, delete: true }),
});
const ruleDefaults = shape<RuleDefaults>({
  rounding: rounding.required(),
  limits: limits.required(),
  pace: defaultPace,
});
const sections = Joi.array()
  .items(
    shape<Section>({
      ...{ name: kept.required(), fields: Joi.array().items(key).max(300).required() },
      ...{ lists: Joi.array().items(Joi.string().max(121)).max(300), condition: expression },
    }),
  )
  .max(50);
const openLink = shape<OpenLink>({
  ...{ key: key.required(), name: kept.required(), required: Joi.boolean(), help: kept.max(500) },
  links: Joi.array().items(key).min(1).max(20).unique().required(),
});
const rates = shape<RateFields>({ pair: key.required(), day: key.required(), rate: key.required() });
export const modelType = shape<RecordType>({
  key: key.required(),
  name: kept.required(),
  plural: kept.required(),
  title: key.required(),
  fields: Joi.array().items(modelField).min(1).max(300).required(),
  bridge: Joi.boolean(),
  openLinks: Joi.array().items(openLink).max(20),
  ...{ sections, rates },
});
export const optionList = shape<OptionList>({ key: key.required(), name: kept.required(), options });
export const selection = shape<Selection>({
  ...{ key: key.required(), name: kept.required(), type: key.required(), condition: expression.required() },
});
const replaced = Joi.object().pattern(key, key.allow(null));
const modelChange = Joi.alternatives().conditional(
  '.kind',
  shapesByKind<ModelChange>({
    addType: { type: modelType.required() },
    changeType: {
      key: key.required(),
      to: shape<Extract<ModelChange, { readonly kind: 'changeType' }>['to']>({
        ...{ name: kept.required(), plural: kept.required(), title: key.required() },
        rates: rates.allow(null),
      }).required(),
    },
    removeType: { key: key.required() },
    arrange: { key: key.required(), sections: sections.required() },
    addField: { type: key.required(), field: modelField.required() },
    changeField: { type: key.required(), to: modelField.required(), replaced, whereEmpty: wire },
    moveField: { type: key.required(), key: key.required(), to: Joi.number().integer().min(0).required() },
    removeField: { type: key.required(), key: key.required() },
    addOpenLink: { type: key.required(), openLink: openLink.required() },
    changeOpenLink: { type: key.required(), to: openLink.required() },
    removeOpenLink: { type: key.required(), key: key.required() },
    addList: { list: optionList.required() },
    changeList: { to: optionList.required(), replaced },
    removeList: { key: key.required() },
    addSelection: { selection: selection.required() },
    changeSelection: { to: selection.required() },
    removeSelection: { key: key.required() },
    changeRuleDefaults: { to: ruleDefaults.required() },
  }),
);
export const modelChanges = Joi.array().items(modelChange.required()).min(1).max(200).required();
