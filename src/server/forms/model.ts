import { KIND_NAMES } from '@/core/values';
import Joi from 'joi';
import { byKind, key, kept, kindIs, wire } from './parts';
import { defaultPace, expression, limits, rounding } from './rules';

const option = Joi.object({ key: key.required(), name: kept.required() });
const options = Joi.array().items(option).max(500).required();
const valueType = Joi.object({
  kind: Joi.valid(...Object.keys(KIND_NAMES)).required(),
  scale: Joi.number().integer(),
  unit: kept.max(20),
  currency: Joi.string().max(3),
  lowest: Joi.number().integer(),
  highest: Joi.number().integer(),
  options: Joi.array().items(option).max(500),
  list: key,
  target: key,
  prefix: kept.max(20).allow(''),
  digits: Joi.number().integer(),
})
  .when('.kind', { is: 'number', then: Joi.object({ scale: Joi.required() }) })
  .when('.kind', { is: 'money', then: Joi.object({ currency: Joi.required() }) })
  .when('.kind', { is: 'rating', then: Joi.object({ lowest: Joi.required(), highest: Joi.required() }) })
  .when('.kind', { is: Joi.valid('choice', 'choices'), then: Joi.object({ options: Joi.required() }) })
  .when('.kind', { is: 'link', then: Joi.object({ target: Joi.required() }) })
  .when('.kind', { is: 'serial', then: Joi.object({ prefix: Joi.required(), digits: Joi.required() }) });
const modelField = Joi.object({
  key: key.required(),
  name: kept.required(),
  type: valueType.required(),
  required: Joi.boolean(),
  unique: Joi.boolean(),
  default: wire,
  help: kept.max(500).allow(''),
  otherEnd: kept,
  whenParentGoes: Joi.valid('refuse', 'clear', 'delete'),
});
const ruleDefaults = Joi.object({
  rounding: rounding.required(),
  limits: limits.required(),
  pace: defaultPace,
});
const sections = Joi.array()
  .items(
    Joi.object({
      ...{ name: kept.required(), fields: Joi.array().items(key).max(300).required() },
      ...{ lists: Joi.array().items(Joi.string().max(121)).max(300), condition: expression },
    }),
  )
  .max(50);
const openLink = Joi.object({
  ...{ key: key.required(), name: kept.required(), required: Joi.boolean(), help: kept.max(500) },
  links: Joi.array().items(key).min(1).max(20).unique().required(),
});
const rates = Joi.object({ pair: key.required(), day: key.required(), rate: key.required() });
export const modelType = Joi.object({
  key: key.required(),
  name: kept.required(),
  plural: kept.required(),
  title: key.required(),
  fields: Joi.array().items(modelField).min(1).max(300).required(),
  bridge: Joi.boolean(),
  openLinks: Joi.array().items(openLink).max(20),
  ...{ sections, rates },
});
export const optionList = Joi.object({ key: key.required(), name: kept.required(), options });
export const selection = Joi.object({
  ...{ key: key.required(), name: kept.required(), type: key.required(), condition: expression.required() },
});
const replaced = Joi.object().pattern(key, key.allow(null));
const modelChange = Joi.alternatives().conditional(
  '.kind',
  byKind([
    kindIs('addType', { type: modelType.required() }),
    kindIs('changeType', {
      key: key.required(),
      to: Joi.object({
        ...{ name: kept.required(), plural: kept.required(), title: key.required() },
        rates: rates.allow(null),
      }).required(),
    }),
    kindIs('removeType', { key: key.required() }),
    kindIs('arrange', { key: key.required(), sections: sections.required() }),
    kindIs('addField', { type: key.required(), field: modelField.required() }),
    kindIs('changeField', {
      ...{ type: key.required(), to: modelField.required(), replaced, whereEmpty: wire },
    }),
    kindIs('moveField', {
      type: key.required(),
      key: key.required(),
      to: Joi.number().integer().min(0).required(),
    }),
    kindIs('removeField', { type: key.required(), key: key.required() }),
    kindIs('addOpenLink', { type: key.required(), openLink: openLink.required() }),
    kindIs('changeOpenLink', { type: key.required(), to: openLink.required() }),
    kindIs('removeOpenLink', { type: key.required(), key: key.required() }),
    kindIs('addList', { list: optionList.required() }),
    kindIs('changeList', { to: optionList.required(), replaced }),
    kindIs('removeList', { key: key.required() }),
    kindIs('addSelection', { selection: selection.required() }),
    kindIs('changeSelection', { to: selection.required() }),
    kindIs('removeSelection', { key: key.required() }),
    kindIs('changeRuleDefaults', { to: ruleDefaults.required() }),
  ]),
);
export const modelChanges = Joi.array().items(modelChange.required()).min(1).max(200).required();
