import type { ProblemCode, Problem, Replaced, WireValue } from '@/core/values';
import { checkModel } from './check-model';
import type {
  Field,
  ModelDefinition,
  OpenLink,
  OptionList,
  RateFields,
  RecordType,
  RuleDefaults,
  Section,
  Selection,
} from './model';

/** One change of a model, as it is sent: plain data. Keys never change; names do, and reach everything that shows them. */
export type ModelChange =
  | { readonly kind: 'addType'; readonly type: RecordType }
  | {
      readonly kind: 'changeType';
      readonly key: string;
      /** `rates`: left out they stay as they are; `null`: its records are no longer rates. */
      readonly to: Pick<RecordType, 'name' | 'plural' | 'title'> & { readonly rates?: RateFields | null };
    }
  | { readonly kind: 'removeType'; readonly key: string }
  | { readonly kind: 'arrange'; readonly key: string; readonly sections: readonly Section[] }
  | { readonly kind: 'addOpenLink'; readonly type: string; readonly openLink: OpenLink }
  | { readonly kind: 'changeOpenLink'; readonly type: string; readonly to: OpenLink }
  /** Its links stay, as ordinary ones. */
  | { readonly kind: 'removeOpenLink'; readonly type: string; readonly key: string }
  | { readonly kind: 'addField'; readonly type: string; readonly field: Field }
  | {
      readonly kind: 'changeField';
      readonly type: string;
      /** The field as it is to be; its key says which it is. */
      readonly to: Field;
      /** For options that go: which takes the place of each. Left out: the field is emptied there. */
      readonly replaced?: Replaced;
      /** For a field that becomes required: what stands where it is empty. */
      readonly whereEmpty?: WireValue;
    }
  | { readonly kind: 'moveField'; readonly type: string; readonly key: string; readonly to: number }
  | { readonly kind: 'removeField'; readonly type: string; readonly key: string }
  | { readonly kind: 'addList'; readonly list: OptionList }
  | { readonly kind: 'changeList'; readonly to: OptionList; readonly replaced?: Replaced }
  | { readonly kind: 'removeList'; readonly key: string }
  | { readonly kind: 'addSelection'; readonly selection: Selection }
  | { readonly kind: 'changeSelection'; readonly to: Selection }
  | { readonly kind: 'removeSelection'; readonly key: string }
  /** What new rules begin with. */
  | { readonly kind: 'changeRuleDefaults'; readonly to: RuleDefaults };

/** What has to happen to the tables, in order. */
export type StorageStep =
  | { readonly kind: 'addType'; readonly type: RecordType }
  | { readonly kind: 'removeType'; readonly type: RecordType }
  | { readonly kind: 'addField'; readonly type: string; readonly field: Field }
  | {
      readonly kind: 'changeField';
      readonly type: string;
      readonly from: Field;
      readonly to: Field;
      readonly replaced: Replaced;
      readonly whereEmpty: WireValue;
    }
  | { readonly kind: 'removeField'; readonly type: string; readonly field: Field }
  /** After all others: what holds a record to at most one of the links. `null`: there was, or is to be, none. */
  | {
      readonly kind: 'openLink';
      readonly type: string;
      readonly from: OpenLink | null;
      readonly to: OpenLink | null;
    };

export type ChangedModel =
  | { readonly ok: true; readonly definition: ModelDefinition; readonly steps: readonly StorageStep[] }
  | { readonly ok: false; readonly problems: readonly Problem[] };

/**
 * A model with changes made to it, one after the other, and what that asks of the tables. Refuses changes of what isn't there,
 * two changes of one field, and whatever would leave a model with problems (see `checkModel`).
 */
export function changeModel(before: ModelDefinition, changes: readonly ModelChange[]): ChangedModel {
  const changing = new Changing(before);
  for (const [index, change] of changes.entries()) {
    const problem = changing.make(change);
    if (problem) return { ok: false, problems: [{ ...problem, data: { index } }] };
  }
  const problems = checkModel(changing.definition);
  return problems.length > 0
    ? { ok: false, problems }
    : {
        ok: true,
        definition: changing.definition,
        steps: [
          ...changing.steps,
          ...openLinkSteps([...before.types, ...addedTypes(changing.steps)], changing.definition),
        ],
      };
}

const addedTypes = (steps: readonly StorageStep[]): RecordType[] =>
  steps.flatMap((step) => (step.kind === 'addType' ? [step.type] : []));

/** What holds records to their open links is made again where anything about it differs; a new type's comes with its table. */
function openLinkSteps(before: readonly RecordType[], after: ModelDefinition): StorageStep[] {
  const print = ({ links, required }: OpenLink) => `${links.join(' ')} ${required === true}`;
  return after.types.flatMap(({ key: type, openLinks = [] }) => {
    const was = before.find(({ key }) => key === type);
    if (!was) return [];
    const known = was.openLinks ?? [];
    return [...new Set([...known, ...openLinks].map(({ key }) => key))].flatMap((key): StorageStep[] => {
      const from = known.find((one) => one.key === key) ?? null;
      const to = openLinks.find((one) => one.key === key) ?? null;
      return from && to && print(from) === print(to) ? [] : [{ kind: 'openLink', type, from, to }];
    });
  });
}

const refused = (code: ProblemCode, place: string, message: string): Problem => ({ code, place, message });

/** A field that goes leaves its section and its open link too. */
const withoutField = (type: RecordType, key: string): RecordType => ({
  ...type,
  fields: type.fields.filter((field) => field.key !== key),
  ...(type.openLinks
    ? {
        openLinks: type.openLinks.map((open) => ({
          ...open,
          links: open.links.filter((link) => link !== key),
        })),
      }
    : {}),
  ...(type.sections
    ? {
        sections: type.sections.map((section) => ({
          ...section,
          fields: section.fields.filter((field) => field !== key),
        })),
      }
    : {}),
});

class Changing {
  readonly steps: StorageStep[] = [];
  readonly #touched = new Set<string>();
  definition: ModelDefinition;

  constructor(before: ModelDefinition) {
    this.definition = before;
  }

  make(change: ModelChange): Problem | null {
    switch (change.kind) {
      case 'addType':
        this.steps.push({ kind: 'addType', type: change.type });
        this.definition = { ...this.definition, types: [...this.definition.types, change.type] };
        return null;
      case 'changeType':
        return this.onType(change.key, ({ rates: had, ...type }) => {
          const { rates = had, ...names } = change.to;
          return { ...type, ...names, ...(rates ? { rates } : {}) };
        });
      case 'removeType':
        return this.removeType(change.key);
      case 'arrange':
        return this.onType(change.key, (type) => ({ ...type, sections: change.sections }));
      case 'addOpenLink':
        return this.onType(change.type, (type) => ({
          ...type,
          openLinks: [...(type.openLinks ?? []), change.openLink],
        }));
      case 'changeOpenLink':
        return this.onOpenLink(change.type, change.to.key, () => [change.to]);
      case 'removeOpenLink':
        return this.onOpenLink(change.type, change.key, () => []);
      case 'addField':
        this.steps.push({ kind: 'addField', type: change.type, field: change.field });
        return this.onType(change.type, (type) => ({ ...type, fields: [...type.fields, change.field] }));
      case 'changeField':
        return this.changeField(change);
      case 'moveField':
        return this.onField(change.type, change.key, (type, field) => {
          const others = type.fields.filter((one) => one !== field);
          return { ...type, fields: others.toSpliced(change.to, 0, field) };
        });
      case 'removeField':
        return this.onField(change.type, change.key, (type, field) => {
          this.steps.push({ kind: 'removeField', type: type.key, field });
          return withoutField(type, field.key);
        });
      case 'addList':
        this.definition = { ...this.definition, lists: [...(this.definition.lists ?? []), change.list] };
        return null;
      case 'changeList':
        return this.changeList(change.to, change.replaced ?? {});
      case 'removeList':
        return this.removeList(change.key);
      case 'addSelection':
        return this.withSelections((selections) => [...selections, change.selection]);
      case 'changeSelection':
        return this.onSelection(change.to.key, (before) => [{ ...change.to, type: before.type }]);
      case 'removeSelection':
        return this.onSelection(change.key, () => []);
      case 'changeRuleDefaults':
        this.definition = { ...this.definition, ruleDefaults: change.to };
        return null;
    }
  }

  private onType(key: string, work: (type: RecordType) => RecordType): Problem | null {
    if (!this.definition.types.some((type) => type.key === key))
      return refused('model.noType', key, `There is no type “${key}”. Reload: it may be gone.`);
    const types = this.definition.types.map((type) => (type.key === key ? work(type) : type));
    this.definition = { ...this.definition, types };
    return null;
  }

  private onField(
    key: string,
    field: string,
    work: (type: RecordType, field: Field) => RecordType,
  ): Problem | null {
    const found = this.definition.types
      .find((type) => type.key === key)
      ?.fields.find((one) => one.key === field);
    if (!found)
      return refused(
        'model.noField',
        `${key}.${field}`,
        `There is no field “${field}” on “${key}”. Reload: it may be gone.`,
      );
    const place = `${key}.${field}`;
    if (this.#touched.has(place))
      return refused('model.twice', place, `“${found.name}” is changed twice. Bring the changes together.`);
    this.#touched.add(place);
    return this.onType(key, (type) => work(type, found));
  }

  private onOpenLink(
    key: string,
    open: string,
    work: (before: OpenLink) => readonly OpenLink[],
  ): Problem | null {
    const type = this.definition.types.find((one) => one.key === key);
    if (!type?.openLinks?.some((one) => one.key === open))
      return refused(
        'model.noField',
        `${key}.${open}`,
        `There is no open link “${open}” on “${key}”. Reload: it may be gone.`,
      );
    return this.onType(key, ({ openLinks = [], ...rest }) => {
      const left = openLinks.flatMap((one) => (one.key === open ? work(one) : [one]));
      return left.length > 0 ? { ...rest, openLinks: left } : rest;
    });
  }

  private changeField({
    type: key,
    to,
    replaced = {},
    whereEmpty = null,
  }: Extract<ModelChange, { kind: 'changeField' }>): Problem | null {
    return this.onField(key, to.key, (type, from) => {
      this.steps.push({ kind: 'changeField', type: key, from, to, replaced, whereEmpty });
      return { ...type, fields: type.fields.map((field) => (field === from ? to : field)) };
    });
  }

  private removeType(key: string): Problem | null {
    const type = this.definition.types.find((one) => one.key === key);
    if (!type) return refused('model.noType', key, `There is no type “${key}”. Reload: it may be gone.`);
    const named = this.definition.types.flatMap((other) =>
      other === type
        ? []
        : other.fields
            .filter((field) => field.type.kind === 'link' && field.type.target === key)
            .map((field) => `${field.name} of ${other.name}`),
    );
    if (named.length > 0)
      return refused(
        'model.linked',
        key,
        `${type.name} is named by ${named.join(', ')}. Remove these links first.`,
      );
    this.steps.push({ kind: 'removeType', type });
    this.definition = { ...this.definition, types: this.definition.types.filter((one) => one !== type) };
    return null;
  }

  /** Every field that takes its options from the list follows it. */
  private changeList(to: OptionList, replaced: Replaced): Problem | null {
    const lists = this.definition.lists ?? [];
    if (!lists.some((list) => list.key === to.key))
      return refused('model.noList', to.key, `There is no option list “${to.key}”. Reload: it may be gone.`);
    for (const { type, field } of this.usersOf(to.key)) {
      if (field.type.kind !== 'choice' && field.type.kind !== 'choices') continue;
      const next: Field = { ...field, type: { ...field.type, options: to.options } };
      const problem = this.changeField({ kind: 'changeField', type, to: next, replaced });
      if (problem) return problem;
    }
    this.definition = { ...this.definition, lists: lists.map((list) => (list.key === to.key ? to : list)) };
    return null;
  }

  private removeList(key: string): Problem | null {
    const users = this.usersOf(key);
    if (users.length > 0) {
      const names = users.map(({ type, field }) => `${field.name} of ${this.nameOf(type)}`).join(', ');
      return refused(
        'model.listUsed',
        key,
        `The list is used by ${names}. Give these options of their own first.`,
      );
    }
    this.definition = {
      ...this.definition,
      lists: (this.definition.lists ?? []).filter((list) => list.key !== key),
    };
    return null;
  }

  private withSelections(work: (selections: readonly Selection[]) => readonly Selection[]): null {
    this.definition = { ...this.definition, selections: work(this.definition.selections ?? []) };
    return null;
  }

  private onSelection(key: string, work: (before: Selection) => readonly Selection[]): Problem | null {
    if (!this.definition.selections?.some((selection) => selection.key === key))
      return refused('model.noSelection', key, `There is no selection “${key}”. Reload: it may be gone.`);
    return this.withSelections((selections) =>
      selections.flatMap((selection) => (selection.key === key ? work(selection) : [selection])),
    );
  }

  private usersOf(list: string): { readonly type: string; readonly field: Field }[] {
    return this.definition.types.flatMap((type) =>
      type.fields
        .filter(({ type: of }) => (of.kind === 'choice' || of.kind === 'choices') && of.list === list)
        .map((field) => ({ type: type.key, field })),
    );
  }

  private nameOf(key: string): string {
    return this.definition.types.find((type) => type.key === key)?.name ?? key;
  }
}
