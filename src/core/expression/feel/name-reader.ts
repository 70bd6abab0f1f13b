import { type Model, stepDown, typeIn, fieldIn } from '@/core/model';
import { type Expression } from '@/core/syntax/expression';
import { type Found, fromInside, type ListAt, type Place, type RecordAt } from './feel-places';
import { FeelText, type TreeNode } from './feel-text';
import { listNames, nearest } from '@/core/expression/names';
import { prefixed } from '@/core/expression/prefixed';

export const field = (route: readonly string[], name: string): Expression => ({
  kind: 'field',
  route,
  field: name,
});
const DATE_PARTS = ['year', 'month', 'day', 'weekday', 'hour', 'minute', 'second'] as const;
/** Reads names: fields, linked records and lists, on the records at hand and on those around a list. */
export abstract class NameReader extends FeelText {
  constructor(
    protected readonly model: Model,
    text: string,
  ) {
    super(text);
  }

  protected abstract read(node: TreeNode, place: Place): Found;

  protected abstract value(node: TreeNode, place: Place): Expression;

  protected name(node: TreeNode, place: Place): Found {
    const name = this.at(node).replace(/\s+/g, ' ');
    return this.resolve(node, name, place) ?? this.unknown(node, name, place);
  }

  /** A name on the records at hand, or on those around the list in which it stands. */
  protected resolve(node: TreeNode, name: string, place: Place): Found | null {
    const local = place.locals.get(name);
    if (local === place) return { is: 'record', type: place.type, route: [] };
    const here = this.member(node, { is: 'record', type: place.type, route: [] }, name);
    if (here) return here;
    const { around } = place;
    if (!around) return null;
    const outer = local
      ? ({ is: 'record', type: local.type, route: [] } as const)
      : this.resolve(node, name, around.place);
    if (!outer) return null;
    if (around.back === null)
      return this.fail(
        node,
        'feel.around',
        `“${name}” can’t be read from within this list. Work it out in a field of its own first.`,
      );
    return fromInside(outer, around.back);
  }

  protected unknown(node: TreeNode, name: string, place: Place): never {
    const type = typeIn(this.model, place.type);
    const names = [
      ...type.fields.map(({ key }) => key),
      ...listNames(this.model, type.key).map((list) => list.name),
      ...place.locals.keys(),
    ];
    return this.unknownName(node, name, names, type.name);
  }

  protected unknownName(node: TreeNode, name: string, names: readonly string[], of: string): never {
    const byLabel = nearest(name, names);
    const hint = byLabel
      ? ` Did you mean “${byLabel}”?`
      : ` It has ${names.slice(0, 8).join(', ')}${names.length > 8 ? ' …' : ''}.`;
    return this.fail(node, 'feel.name', `${of} has nothing called “${name}”.${hint}`);
  }

  /** A field, a linked record or a list of what was reached so far; `null` where it has nothing of the name. */
  protected member(node: TreeNode, of: RecordAt, name: string): Found | null {
    const found = this.model.field(of.type, name);
    if (found?.type.kind === 'link')
      return { is: 'record', type: found.type.target, route: [...of.route, name] };
    if (found) return { is: 'value', expression: this.mark(node, field(of.route, name)) };
    const list = listNames(this.model, of.type).find((one) => one.name === name);
    if (!list) return null;
    return {
      ...{ is: 'list', up: of.route, down: [stepDown(list.link)], member: list.link.type },
      ...{ condition: null, onward: [], value: null },
    };
  }

  protected path(node: TreeNode, place: Place): Found {
    const [base, named] = this.parts(node);
    if (!base || !named) return this.fail(node, 'feel.path', 'A name is missing after the point.');
    const name = this.at(named);
    const found = this.read(base, place);
    if (found.is === 'record')
      return this.member(node, found, name) ?? this.unknownIn(named, name, found.type);
    if (found.is === 'list') return this.onward(node, named, found, name);
    if ((DATE_PARTS as readonly string[]).includes(name))
      return {
        is: 'value',
        expression: this.mark(node, {
          kind: 'call',
          name: name as (typeof DATE_PARTS)[number],
          arguments: [found.expression],
        }),
      };
    return this.fail(
      named,
      'feel.path',
      `“${this.at(base)}” is a value, which has nothing called “${name}”. A date has year, month, day and weekday; a moment hour, minute and second, too.`,
    );
  }

  protected unknownIn(node: TreeNode, name: string, type: string): never {
    return this.unknown(node, name, { type, locals: new Map() });
  }

  /** Further on from a list: a field of its records, the records that they name, or those beneath them. */
  protected onward(node: TreeNode, named: TreeNode, list: ListAt, name: string): Found {
    if (list.value)
      return this.fail(named, 'feel.path', `These are values, which have nothing called “${name}”.`);
    const reached = list.onward.reduce((at, link) => {
      const { type } = fieldIn(this.model, at, link);
      return type.kind === 'link' ? type.target : at;
    }, list.member);
    const found = this.member(node, { is: 'record', type: reached, route: list.onward }, name);
    if (!found) return this.unknownIn(named, name, reached);
    if (found.is === 'value') return { ...list, value: found.expression };
    if (found.is === 'record') return { ...list, onward: found.route };
    if (list.onward.length > 0)
      return this.fail(
        named,
        'feel.path',
        'A list can’t go up and down again. Work it out in a field of its own first.',
      );
    const [step] = found.down;
    const condition = list.condition && prefixed(list.condition, [step!.link]);
    return { ...list, down: [...list.down, step!], member: found.member, condition };
  }

  protected filter(node: TreeNode, place: Place): Found {
    const [base, test] = this.parts(node);
    const list = this.read(base!, place);
    if (list.is !== 'list' || list.value)
      return this.fail(
        node,
        'feel.filter',
        `“${this.at(base!)}” aren’t records that can be filtered. Only lists such as ${this.listsOf(place)} have [ … ].`,
      );
    if (!test || test.name === 'NumericLiteral')
      return this.fail(
        test ?? node,
        'feel.filter',
        'Records beneath have no order here, so none can be picked by its number. Write a condition.',
      );
    const inner = this.within(list, place);
    const written = this.value(test, inner);
    const condition = list.onward.length > 0 ? prefixed(written, list.onward) : written;
    return {
      ...list,
      condition: list.condition
        ? { kind: 'group', operator: 'all', of: [list.condition, condition] }
        : condition,
    };
  }

  protected listsOf(place: Place): string {
    const names = listNames(this.model, place.type).map(({ name }) => name);
    return names.length > 0 ? names.slice(0, 3).join(', ') : 'the records beneath it';
  }

  /** Within a list names are read on its records; from these the links lead back up to the record around. */
  protected within(list: ListAt, place: Place, local?: string): Place {
    const type = list.onward.reduce((at, link) => {
      const { type: of } = fieldIn(this.model, at, link);
      return of.kind === 'link' ? of.target : at;
    }, list.member);
    const isBack = list.up.length === 0 && list.onward.length === 0;
    const back = isBack ? [...list.down].reverse().map(({ link }) => link) : null;
    const locals = new Map(place.locals);
    const inner: Place = { type, around: { place, back }, locals };
    locals.set('item', inner);
    if (local) locals.set(local, inner);
    return inner;
  }
}
