import { canonical, certain, foundIn } from '@/core/values';
import {
  type Field,
  type Model,
  type ModelChange,
  type OpenLink,
  readModel,
  type RecordType,
} from '@/core/model';
import { type RuleDefinition, targetsOf } from '@/core/rules';
import { type Bundle, type BundleProof, type BundleRule } from './bundle';

export type DifferenceSection =
  'optionLists' | 'types' | 'fields' | 'selections' | 'rules' | 'lists' | 'families' | 'proofs' | 'requests';

/** Something that a workspace and a bundle don't have alike. */
export interface Difference {
  /** Tells it from all others: `fields loan.stage`. */
  readonly id: string;
  readonly section: DifferenceSection;
  readonly name: string;
  /** Only the bundle has it; both, otherwise; only the workspace; or taking it over isn't possible as it is. */
  readonly kind: 'new' | 'changed' | 'gone' | 'conflict';
  /** What the workspace has and what the bundle has, as JSON; `null` for nothing. */
  readonly before: string | null;
  readonly after: string | null;
  /** Why it is a conflict. */
  readonly reason: string | null;
}

type Compared = Pick<
  Bundle,
  'optionLists' | 'types' | 'selections' | 'lists' | 'rules' | 'families' | 'proofs' | 'requests'
>;

/** What of a workspace a bundle would change, section by section, in the order in which it would be done. Records aren't compared. */
export function compareBundles(workspace: Compared, bundle: Compared): Difference[] {
  return [
    ...section('optionLists', workspace.optionLists, bundle.optionLists, ({ key }) => key),
    ...section('types', workspace.types.map(headOf), bundle.types.map(headOf), ({ key }) => key),
    ...workspace.types.flatMap((type) => {
      const other = bundle.types.find(({ key }) => key === type.key);
      return other ? fieldDifferences(type, other) : [];
    }),
    ...section('selections', workspace.selections, bundle.selections, ({ key }) => key),
    ...section('rules', workspace.rules.map(ruleOf), bundle.rules.map(ruleOf), ({ id }) => id).map((one) =>
      ruleConflict(readModel({ types: bundle.types }), one, workspace.rules, bundle.rules),
    ),
    ...section('lists', workspace.lists, bundle.lists, ({ name }) => name.toLowerCase()),
    ...section('families', workspace.families, bundle.families, ({ name }) => name.toLowerCase()),
    ...section('proofs', workspace.proofs.map(proofOf), bundle.proofs.map(proofOf), proofKey),
    ...section('requests', workspace.requests, bundle.requests, ({ name }) => name.toLowerCase()),
  ];
}

/** A type without its fields, which are compared one by one. */
const headOf = ({ key, name, plural, title, bridge, openLinks, sections }: RecordType) => ({
  ...{ key, name, plural, title },
  ...(openLinks && openLinks.length > 0 ? { openLinks } : {}),
  ...(sections && sections.length > 0 ? { sections } : {}),
  ...(bridge ? { bridge } : {}),
});

/** A rule without its state: what comes from a bundle comes as a draft. */
const ruleOf = ({ id, name, note, tags = [], definition }: BundleRule) => ({
  ...{ id, name, note, definition },
  ...(tags.length > 0 ? { tags: [...tags].sort() } : {}),
});

/** A proof without its id: it is known by its rule and its name. */
const proofOf = ({ id: _own, ...proof }: BundleProof): Omit<BundleProof, 'id'> => proof;

const proofKey = ({ rule, name }: Pick<BundleProof, 'rule' | 'name'>): string =>
  `${rule} ${name.toLowerCase()}`;

function section<T extends { readonly name: string }>(
  name: DifferenceSection,
  before: readonly T[],
  after: readonly T[],
  keyOf: (one: T) => string,
  place = '',
): Difference[] {
  const had = new Map(before.map((one) => [keyOf(one), one]));
  const has = new Map(after.map((one) => [keyOf(one), one]));
  return [...new Set([...had.keys(), ...has.keys()])].flatMap((key): Difference[] => {
    const [was, is] = [had.get(key), has.get(key)];
    const [wasText, isText] = [was ? canonical(was) : null, is ? canonical(is) : null];
    if (wasText === isText) return [];
    return [
      {
        ...{ id: `${name} ${place}${key}`, section: name, name: certain(is ?? was).name },
        ...{ kind: !was ? 'new' : !is ? 'gone' : 'changed', before: wasText, after: isText, reason: null },
      },
    ];
  });
}

function fieldDifferences(type: RecordType, other: RecordType): Difference[] {
  return section('fields', type.fields, other.fields, ({ key }) => key, `${type.key}.`).map((difference) => {
    const key = difference.id.slice(`fields ${type.key}.`.length);
    const [was, is] = [type, other].map(({ fields }) => fields.find((field) => field.key === key)?.type);
    const isOther = was?.kind === 'link' && is?.kind === 'link' && was.target !== is.target;
    const named = { ...difference, name: `${difference.name} of ${type.name}` };
    return isOther
      ? {
          ...named,
          kind: 'conflict',
          reason: 'The link names records of another type there. Add a new link instead.',
        }
      : named;
  });
}

/** Two rules can't keep one field: the bundle's comes as a draft, and says whose field it is. */
function ruleConflict(
  model: Model,
  difference: Difference,
  rules: readonly BundleRule[],
  given: readonly BundleRule[],
): Difference {
  const rule = given.find(({ id }) => difference.id === `rules ${id}`);
  const fieldsOf = (definition: RuleDefinition) =>
    targetsOf(model, definition).map(({ type, field }) => `${type}.${field}`);
  const wanted = new Set(rule ? fieldsOf(rule.definition) : []);
  const keeper =
    rule &&
    rules.find(
      ({ id, state, definition }) =>
        id !== rule.id && state === 'live' && fieldsOf(definition).some((field) => wanted.has(field)),
    );
  return keeper
    ? { ...difference, reason: `“${keeper.name}” keeps this field already; it can’t go live beside it.` }
    : difference;
}

/** What taking differences over does: changes of the model, and rules and lists that are made, changed or removed. */
export interface Merge {
  readonly changes: readonly ModelChange[];
  readonly rules: readonly { readonly rule: BundleRule; readonly isNew: boolean }[];
  readonly lists: readonly { readonly name: string; readonly definition: unknown }[];
  readonly goneLists: readonly string[];
  readonly families: Bundle['families'];
  readonly goneFamilies: readonly string[];
  readonly proofs: Bundle['proofs'];
  /** Proofs that go, or make way for those of the bundle: by rule and name, in small letters. */
  readonly goneProofs: readonly { readonly rule: string; readonly name: string }[];
  readonly requests: Bundle['requests'];
  readonly goneRequests: readonly string[];
}

/** Takes chosen differences over, by their ids. Rules that only the workspace has stay: pause them instead. */
export function mergeOf(workspace: Compared, bundle: Compared, chosen: ReadonlySet<string>): Merge {
  const wanted = compareBundles(workspace, bundle).filter(
    ({ id, kind, section: of }) =>
      chosen.has(id) && kind !== 'conflict' && !(of === 'rules' && kind === 'gone'),
  );
  const of = (name: DifferenceSection, kind: Difference['kind']) =>
    wanted
      .filter((one) => one.section === name && one.kind === kind)
      .map(({ id }) => id.slice(name.length + 1));
  const listOf = (key: string) => foundIn(bundle.optionLists, (one) => one.key === key);
  const typeOf = (key: string) => foundIn(bundle.types, (one) => one.key === key);
  const selectionOf = (key: string) => foundIn(bundle.selections, (one) => one.key === key);
  const fieldOf = (place: string): { type: string; field: Field | undefined; key: string } => {
    const [type = '', key = ''] = place.split('.');
    return {
      type,
      key,
      field: bundle.types.find((one) => one.key === type)?.fields.find((one) => one.key === key),
    };
  };
  const made = newTypes(of('types', 'new').map(typeOf), new Set(workspace.types.map(({ key }) => key)));
  const changes: ModelChange[] = [
    ...of('optionLists', 'new').map((key): ModelChange => ({ kind: 'addList', list: listOf(key) })),
    ...of('optionLists', 'changed').map((key): ModelChange => ({ kind: 'changeList', to: listOf(key) })),
    ...made,
    ...of('fields', 'new').map((place): ModelChange => {
      const { type, field } = fieldOf(place);
      return { kind: 'addField', type, field: certain(field) };
    }),
    ...of('fields', 'changed')
      .filter((place) => !followsList(fieldOf(place).field, of('optionLists', 'changed')))
      .map((place): ModelChange => {
        const { type, field } = fieldOf(place);
        return { kind: 'changeField', type, to: certain(field) };
      }),
    ...of('types', 'changed').flatMap((key): ModelChange[] => {
      const { name, plural, title, rates = null, sections = [] } = typeOf(key);
      return [
        { kind: 'changeType', key, to: { name, plural, title, rates } },
        { kind: 'arrange', key, sections },
        ...openLinkChanges(
          foundIn(workspace.types, (one) => one.key === key),
          typeOf(key),
        ),
      ];
    }),
    ...of('selections', 'gone').map((key): ModelChange => ({ kind: 'removeSelection', key })),
    ...of('selections', 'new').map((key): ModelChange => ({
      kind: 'addSelection',
      selection: selectionOf(key),
    })),
    ...of('selections', 'changed').map((key): ModelChange => ({
      kind: 'changeSelection',
      to: selectionOf(key),
    })),
    ...of('fields', 'gone').map((place): ModelChange => {
      const { type, key } = fieldOf(place);
      return { kind: 'removeField', type, key };
    }),
    ...of('types', 'gone').map((key): ModelChange => ({ kind: 'removeType', key })),
    ...of('optionLists', 'gone').map((key): ModelChange => ({ kind: 'removeList', key })),
  ];
  const ruleOfId = (id: string) => foundIn(bundle.rules, (one) => one.id === id);
  const family = (key: string) => foundIn(bundle.families, ({ name }) => name.toLowerCase() === key);
  const request = (key: string) => foundIn(bundle.requests, ({ name }) => name.toLowerCase() === key);
  const proof = (key: string) => foundIn(bundle.proofs, (one) => proofKey(one) === key);
  const list = (key: string) => foundIn(bundle.lists, ({ name }) => name.toLowerCase() === key);
  return {
    changes,
    rules: [
      ...of('rules', 'new').map((id) => ({ rule: ruleOfId(id), isNew: true })),
      ...of('rules', 'changed').map((id) => ({ rule: ruleOfId(id), isNew: false })),
    ],
    lists: [...of('lists', 'new'), ...of('lists', 'changed')].map(list),
    goneLists: of('lists', 'gone'),
    families: [...of('families', 'new'), ...of('families', 'changed')].map(family),
    goneFamilies: of('families', 'gone'),
    proofs: [...of('proofs', 'new'), ...of('proofs', 'changed')].map(proof),
    goneProofs: [...of('proofs', 'gone'), ...of('proofs', 'changed')].map((key) => {
      const [rule = '', ...name] = key.split(' ');
      return { rule, name: name.join(' ') };
    }),
    requests: [...of('requests', 'new'), ...of('requests', 'changed')].map(request),
    goneRequests: of('requests', 'gone'),
  };
}

function openLinkChanges(
  { key: type, openLinks: had = [] }: RecordType,
  { openLinks = [] }: RecordType,
): ModelChange[] {
  const has = (list: readonly OpenLink[], key: string) => list.some((one) => one.key === key);
  return [
    ...had
      .filter(({ key }) => !has(openLinks, key))
      .map(({ key }): ModelChange => ({ kind: 'removeOpenLink', type, key })),
    ...openLinks.map((openLink): ModelChange =>
      has(had, openLink.key)
        ? { kind: 'changeOpenLink', type, to: openLink }
        : { kind: 'addOpenLink', type, openLink },
    ),
  ];
}

/** A field whose options come from a list changes with it. */
const followsList = (field: Field | undefined, lists: readonly string[]): boolean =>
  (field?.type.kind === 'choice' || field?.type.kind === 'choices') &&
  field.type.list !== undefined &&
  lists.includes(field.type.list);

/** New types, each after those that it names; a link that leads round in a circle is added once both are there. */
function newTypes(types: readonly RecordType[], known: Set<string>): ModelChange[] {
  const changes: ModelChange[] = [];
  const later: ModelChange[] = [];
  const left = [...types];
  const isReady = (type: RecordType) =>
    type.fields.every(({ type: of }) => of.kind !== 'link' || of.target === type.key || known.has(of.target));
  while (left.length > 0) {
    const at = Math.max(0, left.findIndex(isReady));
    const [type] = left.splice(at, 1) as [RecordType];
    const waits = (field: Field) =>
      field.type.kind === 'link' && field.type.target !== type.key && !known.has(field.type.target);
    const { openLinks = [], ...rest } = type;
    const waiting = type.fields.filter(waits);
    const open = openLinks.filter(({ links }) => waiting.every(({ key }) => !links.includes(key)));
    changes.push({
      kind: 'addType',
      type: {
        ...rest,
        fields: type.fields.filter((field) => !waiting.includes(field)),
        ...(open.length > 0 ? { openLinks: open } : {}),
      },
    });
    later.push(
      ...waiting.map((field): ModelChange => ({ kind: 'addField', type: type.key, field })),
      ...openLinks
        .filter((one) => !open.includes(one))
        .map((openLink): ModelChange => ({ kind: 'addOpenLink', type: type.key, openLink })),
    );
    known.add(type.key);
  }
  return [...changes, ...later];
}
