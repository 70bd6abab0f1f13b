import type { WireEdit } from '@/core/engine';
import type { Expression } from '@/core/expression';
import { type Bundle, BUNDLE_FORMAT, BUNDLE_VERSION, type ImportPlan, PLAIN_FORMS } from '@/core/intake';
import type { ModelChange } from '@/core/model';
import type { RuleDefinition } from '@/core/rules';
import { KIND_NAMES, MOST_AWAY } from '@/core/values';
import Joi from 'joi';
import { MOST_EDITS } from '../limits';
import { Refusal } from '../refusal';
import type { ListEditInput, SavedListEdit } from './edit-list';
import type { MergeInput } from './merge-bundle';
import type { WorkspaceInput } from './make-workspace';
import type { FamiliesBy, NewFamily } from './sample-families';
import type { SavedListInput } from './saved-lists';

const id = Joi.string().max(60);
const key = Joi.string().max(60);
const version = Joi.number().integer().min(1);
const values = Joi.object().pattern(Joi.string(), Joi.any());
/** A value as it travels; what fits which field is the core's to say. */
const wire = Joi.alternatives(
  Joi.valid(null),
  Joi.string().allow(''),
  Joi.number(),
  Joi.boolean(),
  Joi.array().items(Joi.string()),
  Joi.object({ amount: Joi.string().required(), currency: Joi.string().required() }),
);

const edit = Joi.object({
  kind: Joi.valid('create', 'edit', 'delete', 'restore').required(),
  type: key.required(),
  id: id.when('kind', { is: 'create', otherwise: Joi.required() }),
  version,
  values: values.when('kind', {
    is: Joi.valid('delete', 'restore'),
    then: Joi.forbidden(),
    otherwise: Joi.required(),
  }),
});

const edits = Joi.array().items(edit).max(MOST_EDITS);

const field = Joi.object({
  kind: Joi.valid('field').required(),
  route: Joi.array().items(key).max(6).required(),
  field: key.required(),
});
const EXPRESSION = 'expression';
const part = Joi.link(`#${EXPRESSION}`);
const expression = Joi.alternatives()
  .conditional('.kind', {
    switch: [
      { is: 'constant', then: Joi.object({ kind: Joi.string(), value: wire.required() }) },
      { is: 'field', then: field },
      {
        is: 'compare',
        then: Joi.object({
          kind: Joi.string(),
          operator: Joi.valid('=', '!=', '<', '<=', '>', '>=').required(),
          left: part.required(),
          right: part.required(),
        }),
      },
      {
        is: 'presence',
        then: Joi.object({
          kind: Joi.string(),
          operator: Joi.valid('isEmpty', 'isNotEmpty').required(),
          operand: part.required(),
        }),
      },
      {
        is: 'among',
        then: Joi.object({
          kind: Joi.string(),
          operator: Joi.valid('isAmong', 'isNotAmong').required(),
          operand: part.required(),
          options: Joi.array().items(wire).max(200).required(),
        }),
      },
      {
        is: 'match',
        then: Joi.object({
          kind: Joi.string(),
          operator: Joi.valid('contains', 'startsWith').required(),
          operand: part.required(),
          part: part.required(),
        }),
      },
      {
        is: 'group',
        then: Joi.object({
          kind: Joi.string(),
          operator: Joi.valid('all', 'any', 'none').required(),
          of: Joi.array().items(part).max(200).required(),
        }),
      },
      {
        is: 'day',
        then: Joi.object({
          kind: Joi.string(),
          from: Joi.valid('today', 'monthStart', 'yearStart').required(),
          plus: Joi.number().integer().min(-MOST_AWAY).max(MOST_AWAY).required(),
          unit: Joi.valid('day', 'week', 'month', 'year').required(),
        }),
      },
      {
        is: 'selection',
        then: Joi.object({
          kind: Joi.string(),
          operator: Joi.valid('isIn', 'isNotIn').required(),
          route: Joi.array().items(key).max(6).required(),
          selection: key.required(),
        }),
      },
    ],
    otherwise: Joi.forbidden(),
  })
  .id(EXPRESSION);

const rollUp = Joi.object({
  kind: Joi.valid('rollUp').required(),
  type: key.required(),
  target: key.required(),
  aggregate: key.required(),
  route: Joi.array()
    .items(
      Joi.object({ direction: Joi.valid('down').required(), type: key.required(), link: key.required() }),
    )
    .min(1)
    .max(6)
    .required(),
  value: field.allow(null).required(),
  condition: expression.allow(null).required(),
  whenNone: wire.required(),
  rounding: Joi.object({
    mode: Joi.valid('nearest', 'up', 'down').required(),
    places: Joi.number().integer().min(0).max(20).required(),
  })
    .allow(null)
    .required(),
  pace: Joi.valid('withTheSave').required(),
});

/** Text that is kept as it is: a NUL character or half of a surrogate pair can't be. */
const kept = Joi.string().custom((text: string, helpers) =>
  text.includes('\u0000') || !text.isWellFormed()
    ? helpers.message({
        custom: '{{#label}} holds a character that can’t be kept (NUL, or half of a surrogate pair)',
      })
    : text,
);
const name = kept.trim().max(200).allow('');
const note = kept.max(20_000).allow('');

export interface RecordBody {
  readonly values: Readonly<Record<string, unknown>>;
  readonly id?: string;
}
export interface RecordPatch extends RecordBody {
  readonly version: number;
}
export interface RuleBody {
  readonly definition: RuleDefinition;
  readonly name?: string;
  readonly note?: string;
}
export interface RulePatch extends Partial<RuleBody> {
  readonly version: number;
}
export interface RehearsalBody {
  readonly edits: readonly WireEdit[];
  readonly drafts: readonly {
    readonly id?: string;
    readonly name?: string;
    readonly definition: RuleDefinition;
  }[];
}

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
const modelType = Joi.object({
  key: key.required(),
  name: kept.required(),
  plural: kept.required(),
  title: key.required(),
  fields: Joi.array().items(modelField).min(1).max(300).required(),
  bridge: Joi.boolean(),
  openLinks: Joi.array().items(openLink).max(20),
  sections,
});
const optionList = Joi.object({ key: key.required(), name: kept.required(), options });
const selection = Joi.object({
  ...{ key: key.required(), name: kept.required(), type: key.required(), condition: expression.required() },
});
const replaced = Joi.object().pattern(key, key.allow(null));
const kindIs = (kind: string, more: Joi.SchemaMap) => ({
  is: kind,
  then: Joi.object({ kind: Joi.string(), ...more }),
});
const modelChange = Joi.alternatives().conditional('.kind', {
  switch: [
    kindIs('addType', { type: modelType.required() }),
    kindIs('changeType', {
      key: key.required(),
      to: Joi.object({ name: kept.required(), plural: kept.required(), title: key.required() }).required(),
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
  ],
  otherwise: Joi.forbidden(),
});
const modelChanges = Joi.array().items(modelChange.required()).min(1).max(200).required();

const savedList = Joi.alternatives().conditional('.kind', {
  switch: [
    kindIs('list', {
      type: key.required(),
      columns: Joi.array().items(key).max(300).unique().required(),
      sort: key.allow(null).required(),
      condition: expression.allow(null).required(),
    }),
    kindIs('joined', { selections: Joi.array().items(key).min(1).max(20).unique().required() }),
  ],
  otherwise: Joi.forbidden(),
});

/** A family with all its records. */
const familyData = Joi.object({
  root: Joi.object({ type: key.required(), id: id.required() }).required(),
  members: Joi.array().items(id).min(1).required(),
  records: Joi.array()
    .items(
      Joi.object({
        ...{
          type: key.required(),
          id: Joi.string().guid().lowercase().required(),
          version: version.required(),
        },
        ...{ deleted: Joi.boolean().required(), values: values.required(), errors: values.required() },
      }),
    )
    .required(),
  complete: Joi.array()
    .items(Joi.object({ type: key.required(), link: key.required(), parent: id.required() }))
    .required(),
  names: Joi.object().pattern(Joi.string(), Joi.string().allow('')).required(),
});

/** A bundle's form (`oikon.bundle`); published as JSON Schema, see `bundleSchema`. */
export const bundleShape = Joi.object({
  format: Joi.valid(BUNDLE_FORMAT).required(),
  version: Joi.number().integer().min(1).max(BUNDLE_VERSION).required(),
  workspace: Joi.object({
    name: kept.required(),
    timeZone: Joi.string().max(60).required(),
    settledDay: Joi.string()
      .pattern(/^\d{4}-\d{2}-\d{2}$/)
      .required(),
  }).required(),
  people: Joi.array()
    .items(
      Joi.object({
        id: Joi.string().guid().lowercase().required(),
        name: kept.max(200).required(),
        email: Joi.string().max(200).required(),
        role: kept.max(200).allow('').required(),
      }),
    )
    .unique('id')
    .required(),
  optionLists: Joi.array().items(optionList).required(),
  types: Joi.array().items(modelType).required(),
  selections: Joi.array().items(selection).required(),
  lists: Joi.array()
    .items(Joi.object({ name: kept.max(80).required(), definition: savedList.required() }))
    .unique('name', { ignoreUndefined: true })
    .required(),
  rules: Joi.array()
    .items(
      Joi.object({
        id: Joi.string().guid().lowercase().required(),
        name: kept.max(200).required(),
        note: note.required(),
        state: Joi.valid('draft', 'live', 'paused').required(),
        definition: rollUp.required(),
        live: rollUp,
      }),
    )
    .unique('id')
    .required(),
  families: Joi.array()
    .items(Joi.object({ name: kept.max(80).required(), note: note.required(), data: familyData.required() }))
    .unique('name')
    .required(),
  records: Joi.array().items(
    Joi.object({
      type: key.required(),
      id: Joi.string().guid().lowercase().required(),
      values: values.required(),
    }),
  ),
});

const listEdit = {
  search: kept.max(200).allow(''),
  condition: expression,
  values: values.min(1).required(),
};

const SCHEMAS = {
  newRecord: Joi.object({ values: values.required(), id }),
  recordPatch: Joi.object({ values: values.required(), version: version.required() }),
  changes: Joi.object({ edits: edits.min(1).required(), note }),
  newRule: Joi.object({ definition: rollUp.required(), name, note }),
  rulePatch: Joi.object({ version: version.required(), definition: rollUp, name, note }),
  condition: expression,
  rulesLive: Joi.object({ rules: Joi.array().items(id.required()).min(1).max(200).unique().required() }),
  modelRehearsal: Joi.object({ changes: modelChanges }),
  modelChange: Joi.object({ changes: modelChanges, version: Joi.string().max(20).required(), note }),
  importPlan: Joi.object({
    format: Joi.valid('csv', 'jsonLines').required(),
    encoding: Joi.valid('utf-8', 'utf-16le', 'windows-1252').default('utf-8'),
    separator: Joi.valid(',', ';', '\t', '|').default(','),
    forms: Joi.object({
      decimal: Joi.valid('.', ',').default('.'),
      dates: Joi.valid('dayFirst', 'monthFirst').default('dayFirst'),
      timeZone: Joi.string().max(60).default('UTC'),
    }).default(PLAIN_FORMS),
    columns: Joi.array()
      .items(
        Joi.object({
          ...{
            column: kept.allow('').max(1_000).required(),
            field: key.required(),
            foundBy: key,
            clears: Joi.boolean(),
          },
        }),
      )
      .max(400)
      .required(),
    key: Joi.array().items(key).max(5).unique().default([]),
    refused: Joi.valid('stop', 'leaveOut').default('stop'),
  }),
  newList: Joi.object({ name: name.required(), definition: savedList.required() }),
  listPatch: Joi.object({ version: version.required(), name, definition: savedList }),
  bundle: bundleShape,
  merge: Joi.object({
    bundle: Joi.string().required(),
    chosen: Joi.array().items(Joi.string().max(300)).max(5_000).unique().required(),
  }),
  mergeApply: Joi.object({
    bundle: Joi.string().required(),
    chosen: Joi.array().items(Joi.string().max(300)).max(5_000).unique().required(),
    version: Joi.string().max(20).required(),
  }),
  newFamily: Joi.alternatives(
    Joi.object({
      ...{ name: name.required(), note, root: Joi.object({ type: key.required(), id: id.required() }) },
      links: Joi.array().items(Joi.string().max(121)).max(300),
      data: familyData,
    }).xor('root', 'data'),
    Joi.object({ name: name.required(), type: key.required(), field: key.required(), selection: key }),
  ),
  newWorkspace: Joi.object({
    name: name.required(),
    copyOf: Joi.string().max(40),
    withRecords: Joi.boolean(),
    timeZone: Joi.string().max(60),
  }),
  workspacePatch: Joi.object({ name: name.required() }),
  workspaceRemoval: Joi.object({ confirmation: kept.max(200).allow('').required() }),
  listEditRehearsal: Joi.object(listEdit),
  listEdit: Joi.object({ ...listEdit, expected: Joi.number().integer().min(0).required(), note }),
  ruleState: Joi.object({ state: Joi.valid('live', 'paused').required() }),
  rehearsal: Joi.object({
    edits: edits.default([]),
    drafts: Joi.array()
      .items(Joi.object({ id, name, definition: rollUp.required() }))
      .max(50)
      .default([]),
  }),
};

interface Inputs {
  newRecord: RecordBody;
  recordPatch: RecordPatch;
  changes: { readonly edits: readonly WireEdit[]; readonly note?: string };
  newRule: RuleBody;
  rulePatch: RulePatch;
  condition: Expression;
  rulesLive: { readonly rules: readonly string[] };
  modelRehearsal: { readonly changes: readonly ModelChange[] };
  modelChange: { readonly changes: readonly ModelChange[]; readonly version: string; readonly note?: string };
  importPlan: ImportPlan;
  newList: SavedListInput;
  listPatch: Partial<SavedListInput> & { readonly version: number };
  bundle: Bundle;
  merge: MergeInput;
  mergeApply: MergeInput & { readonly version: string };
  newFamily: NewFamily | FamiliesBy;
  newWorkspace: WorkspaceInput;
  workspacePatch: { readonly name: string };
  workspaceRemoval: { readonly confirmation: string };
  listEditRehearsal: Omit<ListEditInput, 'workspace' | 'person' | 'type' | 'tell'>;
  listEdit: Omit<SavedListEdit, 'workspace' | 'person' | 'type' | 'tell'>;
  ruleState: { readonly state: 'live' | 'paused' };
  rehearsal: RehearsalBody;
}

/** Checks the shape of what came in. Refuses with every part that doesn't fit, by its path. */
export function readInput<K extends keyof Inputs>(kind: K, input: unknown): Inputs[K] {
  const { error, value } = SCHEMAS[kind].validate(input, {
    abortEarly: false,
    convert: false,
    errors: { wrap: { label: '"' } },
  });
  if (!error) return value as Inputs[K];
  const parts = error.details.map((detail) => ({
    code: 'input.shape',
    place: detail.path.join('.'),
    message: `${detail.message}.`,
  }));
  const message = `The request doesn’t have the expected form: ${parts[0]!.message} Correct it and send it again.`;
  throw new Refusal(400, 'input.shape', message, parts);
}
