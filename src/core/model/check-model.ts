import { certain, firstIn, itemAt, KIND_NAMES, type Problem } from '@/core/values';
import type { Field, ModelDefinition, OptionList, RecordType, Selection } from './model';
import { flawOf, flawOfDefault, flawOfGiven, flawOfList, flawOfOptions, flawOfUnique } from './check-default';
import { checkKey, checkName, problem, repeated, repeatedNames, RESERVED } from './check-names';

/** Everything wrong with a model, each with its place (`exhibition.insuredTotal`); empty when it can be used. */
export function checkModel(model: ModelDefinition): Problem[] {
  const keys = new Set(model.types.map((type) => type.key));
  const lists = model.lists ?? [];
  return [
    ...repeated(model.types.map((type) => type.key)).map((key) =>
      problem('model.repeated', key, `Two types have the key “${key}”.`),
    ),
    ...repeatedNames(model.types.map(({ name }) => name)).map((name) =>
      problem('model.repeated', '', `Two types have the name “${name}”. Rename one.`),
    ),
    ...(model.types.length > MOST_TYPES
      ? [problem('model.size', '', `A model has at most ${MOST_TYPES} types.`)]
      : []),
    ...lists.flatMap((list) => checkList(list, lists)),
    ...model.types.flatMap((type) => checkType(type, keys, lists)),
    ...checkNames(model.selections ?? []),
    ...checkRates(model.types),
  ];
}

/** One type holds rates at most; its pair is a text, its day a date, its rate a number. */
function checkRates(types: readonly RecordType[]): Problem[] {
  const holding = types.filter(({ rates }) => rates !== undefined);
  if (holding.length > 1)
    return [
      problem(
        'model.rates',
        itemAt(holding, 1).key,
        `Rates are held by ${firstIn(holding).name} already; only one type does.`,
      ),
    ];
  const wanted = { pair: 'text', day: 'date', rate: 'number' } as const;
  return holding.flatMap(({ key, name, fields, rates }) =>
    (['pair', 'day', 'rate'] as const).flatMap((part) => {
      const field = fields.find((one) => one.key === certain(rates)[part]);
      if (field?.type.kind === wanted[part]) return [];
      const message = `The ${part} of a rate is a field of kind ${KIND_NAMES[wanted[part]]} of ${name}; ${field ? `“${field.name}” is ${KIND_NAMES[field.type.kind]}` : `there is no field “${certain(rates)[part]}”`}. Choose another.`;
      return [problem('model.rates', key, message)];
    }),
  );
}

const MOST_SELECTIONS = 500;

/** Of selections only what needs no reading of their conditions; see `checkSelections` for the rest. */
function checkNames(selections: readonly Selection[]): Problem[] {
  const place = (key: string) => `selection ${key}`;
  return [
    ...repeated(selections.map(({ key }) => key)).map((key) =>
      problem('model.repeated', place(key), `Two selections have the key “${key}”.`),
    ),
    ...repeatedNames(selections.map(({ type, name }) => `${type} ${name}`)).map((both) =>
      problem(
        'model.repeated',
        '',
        `Two selections of one type have the name “${both.slice(both.indexOf(' ') + 1)}”. Rename one.`,
      ),
    ),
    ...selections.flatMap(({ key, name }) => [
      ...checkKey(key, place(key), new Set()),
      ...checkName(name, place(key)),
    ]),
    ...(selections.length > MOST_SELECTIONS
      ? [problem('model.size', '', `A model has at most ${MOST_SELECTIONS} selections.`)]
      : []),
  ];
}

const MOST_TYPES = 200;

const MOST_FIELDS = 300;

function checkList(list: OptionList, lists: readonly OptionList[]): Problem[] {
  const place = `list ${list.key}`;
  const flaw = flawOfOptions(list.options);
  return [
    ...checkKey(list.key, place, new Set()),
    ...checkName(list.name, place),
    ...(lists.filter(({ key }) => key === list.key).length > 1
      ? [problem('model.repeated', place, `Two option lists have the key “${list.key}”.`)]
      : []),
    ...(flaw ? [problem('model.options', place, `${list.name}: ${flaw}`)] : []),
  ];
}

function checkType(type: RecordType, types: ReadonlySet<string>, lists: readonly OptionList[]): Problem[] {
  const title = type.fields.find((field) => field.key === type.title);
  const links = type.fields.filter((field) => field.type.kind === 'link');
  return [
    ...checkKey(type.key, type.key),
    ...checkName(type.name, type.key),
    ...checkName(type.plural, type.key),
    ...(type.fields.length > MOST_FIELDS
      ? [problem('model.size', type.key, `“${type.name}” has more than ${MOST_FIELDS} fields.`)]
      : []),
    ...(type.bridge && (links.length !== 2 || links.some(({ required }) => !required))
      ? [
          problem(
            'model.bridge',
            type.key,
            `“${type.name}” is a bridge: it joins two records, so it has exactly two links, both required.`,
          ),
        ]
      : []),
    ...repeatedNames(type.fields.map(({ name }) => name)).map((name) =>
      problem(
        'model.repeated',
        type.key,
        `“${type.name}” has two fields with the name “${name}”. Rename one.`,
      ),
    ),
    ...repeated(type.fields.map((field) => field.key)).map((key) =>
      problem(
        'model.repeated',
        `${type.key}.${key}`,
        `“${type.name}” has two fields with the key “${key}”. Rename one.`,
      ),
    ),
    ...(title?.type.kind === 'text' && title.required
      ? []
      : [
          problem(
            'model.title',
            type.key,
            `“${type.name}” is named by “${type.title}”, which must be a required text field of it.`,
          ),
        ]),
    ...type.fields.flatMap((field) => checkField(type, field, types, lists)),
    ...checkOpenLinks(type),
    ...checkSections(type),
  ];
}

const MOST_OPEN = 20;

/** An open link stands for several links, of which a record fills at most one. */
function checkOpenLinks(type: RecordType): Problem[] {
  const open = type.openLinks ?? [];
  const known = new Map(type.fields.map((field) => [field.key, field]));
  const place = (key: string) => `${type.key}.${key}`;
  return [
    ...(open.length > MOST_OPEN
      ? [problem('model.size', type.key, `“${type.name}” has more than ${MOST_OPEN} open links.`)]
      : []),
    ...repeated([...open.map(({ key }) => key), ...open.flatMap(({ links }) => links)]).map((key) =>
      problem('model.repeated', place(key), `“${key}” of “${type.name}” stands in two open links.`),
    ),
    ...repeatedNames(open.map(({ name }) => name)).map((name) =>
      problem('model.repeated', type.key, `“${type.name}” has two open links with the name “${name}”.`),
    ),
    ...open.flatMap(({ key, name, links, required }) => {
      const fields = links.flatMap((link) => known.get(link) ?? []);
      const targets = fields.map((field) => (field.type.kind === 'link' ? field.type.target : ''));
      const flaw =
        fields.length !== links.length || targets.includes('')
          ? `It stands for links of “${type.name}”, and not all of ${links.join(', ')} are.`
          : links.length < 2
            ? 'An open link stands for at least two links. Make it an ordinary link, or add another type.'
            : new Set(targets).size < targets.length
              ? 'Two of its links lead to the same type. Leave one of them out.'
              : fields.some((field) => field.required)
                ? 'None of its links can be required by itself. Require the open link instead.'
                : required && fields.some((field) => field.whenParentGoes === 'clear')
                  ? 'It is required, so its links can’t be cleared when their parent goes. Refuse, or delete too.'
                  : null;
      return [
        ...checkKey(key, place(key), RESERVED),
        ...checkName(name, place(key)),
        ...(known.has(key)
          ? [problem('model.repeated', place(key), `“${type.name}” has a field with the key “${key}” too.`)]
          : []),
        ...(flaw ? [problem('model.openLink', place(key), `${name}: ${flaw}`)] : []),
      ];
    }),
  ];
}

const MOST_SECTIONS = 50;

/** Of sections only what needs no reading of their conditions; lists of links that are gone are passed over. */
function checkSections(type: RecordType): Problem[] {
  const sections = type.sections ?? [];
  const place = `${type.key} sections`;
  const known = new Set(type.fields.map(({ key }) => key));
  const placed = sections.flatMap(({ fields }) => fields);
  return [
    ...(sections.length > MOST_SECTIONS
      ? [problem('model.size', place, `A type has at most ${MOST_SECTIONS} sections.`)]
      : []),
    ...sections.flatMap(({ name }) => checkName(name, place)),
    ...repeatedNames(sections.map(({ name }) => name)).map((name) =>
      problem(
        'model.repeated',
        place,
        `“${type.name}” has two sections with the name “${name}”. Rename one.`,
      ),
    ),
    ...placed
      .filter((key) => !known.has(key))
      .map((key) => problem('model.section', place, `“${type.name}” has no field “${key}” for a section.`)),
    ...repeated(placed).map((key) =>
      problem('model.section', place, `“${key}” of “${type.name}” stands in two sections. Leave it in one.`),
    ),
  ];
}

function checkField(
  type: RecordType,
  field: Field,
  types: ReadonlySet<string>,
  lists: readonly OptionList[],
): Problem[] {
  const place = `${type.key}.${field.key}`;
  const flaw =
    flawOf(field.type, types) ??
    flawOfList(field.type, lists) ??
    flawOfDefault(field) ??
    flawOfGiven(field) ??
    flawOfUnique(field);
  const other =
    field.type.kind === 'link' && !field.otherEnd ? 'A link needs a name for its other end.' : null;
  return [
    ...checkKey(field.key, place, RESERVED),
    ...checkName(field.name, place),
    ...(field.otherEnd ? checkName(field.otherEnd, place) : []),
    ...(flaw ? [problem('model.field', place, flaw)] : []),
    ...(other ? [problem('model.otherEnd', place, other)] : []),
    ...(field.required && field.whenParentGoes === 'clear'
      ? [
          problem(
            'model.policy',
            place,
            'A required link can’t be cleared when its parent goes. Refuse, or delete too.',
          ),
        ]
      : []),
  ];
}
