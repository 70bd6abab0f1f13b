import {
  asNumber,
  fieldsRead,
  kindWords,
  type Typed,
  typeCondition,
  type TypedField,
  typeFieldRead,
  typeValue,
} from '@/core/expression';
import { arrive, type Model, type RecordType, routeKey, type StepDown } from '@/core/model';
import {
  certain,
  itemAt,
  KIND_NAMES,
  lastIn,
  type Problem,
  type ProblemCode,
  type ValueType,
} from '@/core/values';
import { finding, typedPart, within } from '@/core/rules/shared/check-target';
import { ratesReadBy } from '@/core/rules/shared/rates-read';
import { splitRoute } from './sources';
import {
  aggregateEntry,
  type CompiledRollUp,
  type CompiledSource,
  ORDERING,
  type RollUp,
  type RollUpSource,
} from './roll-up';
import type { Expression, FieldRead } from '@/core/syntax/expression';

const MOST_STEPS = 6;

const MOST_ORDERS = 2;

/** Checks the records that a rule brings together one after the other; what they give must be alike. */
export class SourceChecker {
  #valueType: ValueType | null = null;
  #orders: readonly TypedField[] | null = null;

  constructor(
    private readonly model: Model,
    private readonly definition: RollUp,
    private readonly parent: RecordType,
    private readonly problems: Problem[],
  ) {}

  valueType(): ValueType | null {
    return this.#valueType;
  }

  /** `null` where something is wrong with it, which is said then. */
  source(source: RollUpSource, place: string): CompiledSource | null {
    const split = splitRoute(this.model, this.parent.key, source.route);
    const at = arrive(this.model, this.parent.key, source.route);
    if (!split || at === undefined || source.route.length > MOST_STEPS) {
      this.say(
        `${place}route`,
        'rule.route',
        `Choose which records beneath ${this.parent.name} are brought together.`,
      );
      return null;
    }
    const { down, up, type } = split;
    const isOneOfItself = ({ type: child }: StepDown, at: number) => at === 0 && child === this.parent.key;
    if (down.some((step, index) => step.isAllTheWay && !isOneOfItself(step, index))) {
      this.say(
        `${place}route`,
        'rule.route',
        `All the way down goes over a link of ${this.parent.plural} to themselves, and first. Choose other records.`,
      );
      return null;
    }
    const value = this.value(source, type, up, place);
    const condition = source.condition ? typeCondition(this.model, type, source.condition) : null;
    if (condition && !condition.ok) this.problems.push(within(`${place}condition`, condition.problem));
    if (value === undefined || (condition && !condition.ok)) return null;
    const order = this.order(source, type, up, place);
    if (order === undefined) return null;
    // The one that leads is the same on however many ways it is reached.
    const isLeading = aggregateEntry(this.definition.aggregate).isOrdered === true;
    const isOnce = up.length > 0 && !source.isEveryWay && !isLeading;
    const end = isOnce ? this.read(type, up, place) : null;
    const typed = condition?.value ?? null;
    const isRecursive = this.isTarget(value);
    const key = routeKey(down);
    const compiled = {
      definition: source,
      key,
      route: down,
      type,
      once: end,
      order,
      value,
      condition: typed,
      isRecursive,
    };
    return { ...compiled, isOwn: isOwn(compiled) };
  }

  private isInOrderOfText(up: readonly string[], isEveryWay: boolean): boolean {
    return this.definition.joining?.isDistinct === true || (up.length > 0 && !isEveryWay);
  }

  /** By what the records are put in order; `undefined` where something is wrong with it, which is said then. */
  private order(
    { order: written = [], isEveryWay = false }: RollUpSource,
    type: string,
    up: readonly string[],
    place: string,
  ): readonly TypedField[] | undefined {
    const entry = aggregateEntry(this.definition.aggregate);
    if (!entry.isOrdered && !entry.mayOrder) return [];
    if (entry.mayOrder && written.length > 0 && this.isInOrderOfText(up, isEveryWay))
      return this.say(
        `${place}order`,
        'rule.order',
        'Where each text or record counts once, they stand in the order of the texts. Leave the order out.',
      );
    if ((entry.isOrdered && written.length === 0) || written.length > MOST_ORDERS)
      return this.say(
        `${place}order`,
        'rule.order',
        `Choose by what the ${entry.words} is found: one field, or two where the first may be the same.`,
      );
    const order: TypedField[] = [];
    for (const read of written) {
      const typed = typeFieldRead(this.model, type, read);
      if (!typed.ok) {
        this.problems.push({ ...typed.problem, place: `${place}order` });
        return undefined;
      }
      const { kind } = typed.value.type;
      if (!ORDERING.includes(kind))
        return this.say(
          `${place}order`,
          'rule.order',
          `Records can’t be put in order by ${KIND_NAMES[kind]}. Choose a number, date, text or choice.`,
        );
      order.push(typed.value);
    }
    const first = this.#orders ?? order;
    const isAlike =
      first.length === order.length && first.every(({ type: one }, at) => alike(one, itemAt(order, at).type));
    if (!isAlike)
      return this.say(
        `${place}order`,
        'rule.order',
        'All of these must be put in order by the same kinds of fields.',
      );
    this.#orders = first;
    return order;
  }

  /** On which records a rule that reacts does. */
  appliesWhen(): Typed | null {
    const { appliesWhen } = this.definition;
    if (!appliesWhen) return null;
    return typedPart(this.problems, 'appliesWhen', typeCondition(this.model, this.parent.key, appliesWhen));
  }

  /** A field of the record itself; `null` where none is named, or something is wrong with it. */
  own(which: 'adds' | 'standsIn' | 'whenNone'): CompiledRollUp['own']['adds'] {
    const written = this.definition.own?.[which];
    if (!written) return null;
    const typed = typeFieldRead(this.model, this.parent.key, written);
    if (!typed.ok) {
      this.problems.push({ ...typed.problem, place: 'own' });
      return null;
    }
    const entry = aggregateEntry(this.definition.aggregate);
    if (which === 'adds' && (entry.isOrdered || entry.mayOrder))
      this.say('own', 'rule.own', 'The record itself has no place in the order. Leave its own value out.');
    else if (which === 'adds') this.takes(typed.value.type, 'own');
    if (typed.value.owner === this.parent.key && written.field === this.definition.target)
      this.say('own', 'rule.own', 'A field can’t be made of itself. Choose another field.');
    return typed.value;
  }

  /** `undefined` where something is wrong with it, which is said then. */
  private value(
    { value: written, isEveryWay = false }: RollUpSource,
    type: string,
    up: readonly string[],
    place: string,
  ): CompiledSource['value'] | undefined {
    const { aggregate } = this.definition;
    const entry = aggregateEntry(aggregate);
    if (entry.kinds.length === 0 && !written) return null;
    if (!written)
      return this.say(`${place}value`, 'rule.value', `Choose the field whose ${entry.words} is taken.`);
    const typed = typeValue(this.model, type, written, { isAlone: true });
    if (!typed.ok) {
      this.problems.push(within(`${place}value`, typed.problem));
      return undefined;
    }
    const isTarget = this.isTarget(typed.value);
    if (entry.kinds.length === 0 && !isTarget)
      return this.say(
        `${place}value`,
        'rule.value',
        'A count takes no value. Leave it out, or choose another aggregate.',
      );
    if (isTarget && !entry.isOfItself)
      return this.say(
        `${place}value`,
        'rule.ofItself',
        `The ${entry.words} of what parts give isn’t the ${entry.words} of all that lies beneath. Bring together what lies beneath at any depth itself, or choose a sum, count, minimum, maximum, all, any, none, best or worst, or another value.`,
      );
    const isOnce = up.length > 0 && !isEveryWay;
    const isThrough = fieldsRead(typed.value).every(({ route }) =>
      up.every((link, at) => route[at] === link),
    );
    if (isOnce && !isThrough)
      return this.say(
        `${place}value`,
        'rule.value',
        'What is brought together over a bridge is read at its far end, where each record counts once. Choose a field there, or count every way.',
      );
    const of: ValueType = entry.kinds.length === 0 ? { kind: 'number', scale: 0 } : typed.value.type;
    if (!this.takes(of, `${place}value`)) return undefined;
    return isTarget && aggregate === 'none' ? this.turned(type, written) : typed.value;
  }

  /** What a part gives to “none”, all the way down: where none of what lies beneath it is so, nothing of it is; empty stays empty. */
  private turned(type: string, written: Expression): Typed {
    const constant = (value: boolean | null): Expression => ({ kind: 'constant', value });
    const isThere: Expression = { kind: 'presence', operator: 'isNotEmpty', operand: written };
    const typed = typeValue(
      this.model,
      type,
      {
        ...{ kind: 'if', condition: written, then: constant(false) },
        otherwise: { kind: 'if', condition: isThere, then: constant(true), otherwise: constant(null) },
      },
      { isAlone: true, wanted: { kind: 'yesNo' } },
    );
    if (!typed.ok) throw new Error(typed.problem.message);
    return typed.value;
  }

  /** Whether a value is made of what the rule itself gives further down. */
  private isTarget(value: Typed | null): boolean {
    const { target } = this.definition;
    const reads = value ? fieldsRead(value) : [];
    return reads.some(({ owner, field }) => owner === this.parent.key && field === target);
  }

  /** Whether the aggregate takes the value, and it goes together with those before it. */
  private takes(type: ValueType, place: string): boolean {
    const { aggregate } = this.definition;
    const entry = aggregateEntry(aggregate);
    if (entry.kinds.length === 0) {
      if (place === 'own') this.say(place, 'rule.own', 'A count takes no value of the record itself.');
      return place !== 'own';
    }
    if (!entry.kinds.includes(type.kind)) {
      const taken = entry.kinds.map((kind) => KIND_NAMES[kind]).join(', ');
      const message = `The ${entry.words} takes ${taken}; this field is ${KIND_NAMES[type.kind]}. Choose another field or aggregate.`;
      this.say(place, 'rule.value', message);
      return false;
    }
    const together = this.#valueType === null ? type : alike(this.#valueType, type);
    if (!together) {
      const message = `This is ${kindWords(type)}, and what is brought together before it ${kindWords(certain(this.#valueType))}: these don’t go together. Choose a field of the same kind.`;
      this.say(place, 'rule.unlike', message);
      return false;
    }
    this.#valueType = together;
    return true;
  }

  private read(type: string, up: readonly string[], place: string): CompiledSource['once'] {
    const read: FieldRead = { kind: 'field', route: up.slice(0, -1), field: lastIn(up) };
    const typed = typeFieldRead(this.model, type, read);
    if (typed.ok) return typed.value;
    this.problems.push({ ...typed.problem, place: `${place}route` });
    return null;
  }

  private say(place: string, code: ProblemCode, message: string): undefined {
    this.problems.push(finding(place, code, message));
  }
}

const isOwn = ({ value, condition, once, order }: Omit<CompiledSource, 'isOwn'>): boolean =>
  ratesReadBy([value, condition]) === null &&
  [value, once, condition, ...order]
    .flatMap((part) => (part ? fieldsRead(part) : []))
    .every(({ route }) => route.length === 0);

/**
 * What values of two types are together: alike in kind, unit, currency and options, with the places of the finer; a rating goes with
 * plain numbers. `null` where they don't go together.
 */
export function alike(a: ValueType, b: ValueType): ValueType | null {
  if (a.kind === 'rating' && b.kind === 'rating')
    return { ...a, lowest: Math.min(a.lowest, b.lowest), highest: Math.max(a.highest, b.highest) };
  const [one, other] = [asNumber(a), asNumber(b)];
  if (one && other)
    return one.unit === other.unit ? { ...one, scale: Math.max(one.scale, other.scale) } : null;
  if (a.kind === 'choice' && b.kind === 'choice') {
    const keys = (type: typeof a) => type.options.map(({ key }) => key).join(' ');
    return keys(a) === keys(b) ? a : null;
  }
  if (a.kind === 'money' && b.kind === 'money') return a.currency === b.currency ? a : null;
  if (a.kind === 'link' && b.kind === 'link') return a.target === b.target ? a : null;
  return a.kind === b.kind ? a : null;
}
