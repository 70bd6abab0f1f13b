import { follow, type Model } from '@/core/model';
import { certain, foundIn, isUnread, unreachable, type ValueType, type WireValue } from '@/core/values';
import type { Expression } from '@/core/syntax/expression';
import { AMOUNT, LIST_FUNCTIONS } from '@/core/syntax/functions';
import { listNames } from '@/core/expression/names';

/** How strongly an operator binds: what binds less stands in brackets within what binds more. */
const BINDING = { any: 1, all: 2, compare: 3, add: 4, multiply: 5, sign: 6, alone: 7 } as const;

interface Printed {
  readonly text: string;
  readonly binding: number;
}

const alone = (text: string): Printed => ({ text, binding: BINDING.alone });

/**
 * An expression on records of a type as FEEL text that reads back as it; `null` where a part of it has no text, such as a field that
 * isn't there any more.
 */
export function printFeel(model: Model, type: string, expression: Expression): string | null {
  const printed = new Printer(model).print(type, expression, null);
  return printed?.text ?? null;
}

class Printer {
  constructor(private readonly model: Model) {}

  /** `like`: the kind of what it is compared with, from which a constant takes its own. */
  print(type: string, node: Expression, like: ValueType | null): Printed | null {
    switch (node.kind) {
      case 'feel':
        return { text: node.text.trim(), binding: 0 };
      case 'constant':
        return alone(unitText(node) ?? constantText(node.value, node.type ?? like));
      case 'field':
        return this.typeOf(type, node) ? alone([...node.route, node.field].join('.')) : null;
      case 'day':
        return dayText(node);
      case 'compare': {
        const kind = node.left.kind === 'field' ? this.typeOf(type, node.left) : null;
        return this.joined(type, [node.left, node.right], ` ${node.operator} `, BINDING.compare, kind);
      }
      case 'presence': {
        const operand = this.within(type, node.operand, BINDING.compare + 1);
        return operand === null
          ? null
          : {
              text: `${operand} ${node.operator === 'isEmpty' ? '=' : '!='} null`,
              binding: BINDING.compare,
            };
      }
      case 'among': {
        const kind = node.operand.kind === 'field' ? this.typeOf(type, node.operand) : null;
        const operand = this.within(type, node.operand, BINDING.compare + 1);
        const options = node.options.map((option) => constantText(option, kind)).join(', ');
        if (operand === null) return null;
        const test = `${operand} in (${options})`;
        return node.operator === 'isAmong' ? { text: test, binding: BINDING.compare } : alone(`not(${test})`);
      }
      case 'match':
        return this.called(type, node.operator === 'contains' ? 'contains' : 'starts with', [
          node.operand,
          node.part,
        ]);
      case 'group':
        return this.group(type, node);
      case 'selection': {
        const record = node.route.length > 0 ? `${node.route.join('.')}, ` : '';
        const test = `selected(${record}"${node.selection}")`;
        return alone(node.operator === 'isIn' ? test : `not(${test})`);
      }
      case 'arithmetic': {
        const binding = node.operator === '+' || node.operator === '-' ? BINDING.add : BINDING.multiply;
        return this.joined(type, [node.left, node.right], ` ${node.operator} `, binding, null);
      }
      case 'negate': {
        const operand = this.within(type, node.operand, BINDING.sign);
        return operand === null ? null : { text: `-${operand}`, binding: BINDING.sign };
      }
      case 'if': {
        const [test, then, otherwise] = [node.condition, node.then, node.otherwise].map((part) =>
          this.print(type, part, null),
        );
        if (!test || !then || !otherwise) return null;
        return { text: `if ${test.text} then ${then.text} else ${otherwise.text}`, binding: 0 };
      }
      case 'call':
        return this.called(type, node.name, node.arguments);
      case 'gather':
        return this.gathered(type, node);
      case 'ofRun':
        return alone(node.what === 'moment' ? 'now()' : `${node.what}()`);
      default:
        return unreachable(node);
    }
  }

  private typeOf(type: string, { route, field }: Extract<Expression, { kind: 'field' }>): ValueType | null {
    const owner = follow(this.model, type, route);
    return owner === undefined ? null : (this.model.field(owner, field)?.type ?? null);
  }

  /** In brackets where it binds less than what stands around it. */
  private within(
    type: string,
    node: Expression,
    least: number,
    like: ValueType | null = null,
  ): string | null {
    const printed = this.print(type, node, like);
    if (!printed) return null;
    return printed.binding < least ? `(${printed.text})` : printed.text;
  }

  private joined(
    type: string,
    parts: readonly Expression[],
    by: string,
    binding: number,
    like: ValueType | null,
  ): Printed | null {
    const texts = parts.map((part, at) => this.within(type, part, at === 0 ? binding : binding + 1, like));
    return texts.includes(null) ? null : { text: texts.join(by), binding };
  }

  private called(type: string, name: string, parts: readonly Expression[]): Printed | null {
    const texts = parts.map((part) => this.print(type, part, { kind: 'text' })?.text ?? null);
    return texts.includes(null) ? null : alone(`${name}(${texts.join(', ')})`);
  }

  private group(type: string, { operator, of }: Extract<Expression, { kind: 'group' }>): Printed | null {
    if (of.length === 0) return alone(operator === 'any' ? 'false' : 'true');
    const binding = operator === 'all' ? BINDING.all : BINDING.any;
    const by = operator === 'all' ? ' and ' : ' or ';
    const texts = of.map((part) => this.within(type, part, binding + (of.length > 1 ? 1 : 0)));
    if (texts.includes(null)) return null;
    if (operator === 'none') return alone(`not(${texts.join(by)})`);
    return { text: texts.join(by), binding: of.length > 1 ? binding : BINDING.compare };
  }

  private gathered(type: string, node: Extract<Expression, { kind: 'gather' }>): Printed | null {
    let at: string | undefined = follow(this.model, type, node.up);
    const names: string[] = [...node.up];
    for (const step of node.down) {
      const list =
        at &&
        listNames(this.model, at).find(({ link }) => link.type === step.type && link.link === step.link);
      if (!list) return null;
      names.push(list.name);
      at = step.type;
    }
    const condition = node.condition && this.print(certain(at), node.condition, null);
    if (node.condition && !condition) return null;
    const list = `${names.join('.')}${condition ? `[${condition.text}]` : ''}`;
    const called = foundIn(
      Object.entries(LIST_FUNCTIONS),
      ([, { aggregate }]) => aggregate === node.aggregate,
    )[0];
    if (!node.value) return alone(`${called}(${list})`);
    const value = this.print(certain(at), node.value, null);
    if (!value) return null;
    return node.value.kind === 'field'
      ? alone(`${called}(${list}.${value.text})`)
      : alone(`${called}(for x in ${list} return ${value.text})`);
  }
}

/** A number that has a unit by itself. */
function unitText({ value, type }: Extract<Expression, { kind: 'constant' }>): string | null {
  if (type?.kind === 'money' && typeof value === 'object' && value && 'amount' in value)
    return `${AMOUNT}(${value.amount}, ${JSON.stringify(type.currency)})`;
  const unit = type?.kind === 'number' && !type.isBare ? type.unit : undefined;
  if (typeof value !== 'string' || unit === undefined || unit === 'days' || unit === 'months') return null;
  return `${AMOUNT}(${value}, ${JSON.stringify(unit)})`;
}

function constantText(value: WireValue, type: ValueType | null): string {
  if (value === null) return 'null';
  if (typeof value === 'boolean' || typeof value === 'number') return String(value);
  if (typeof value === 'object' && 'amount' in value) return value.amount;
  if (isUnread(value)) return JSON.stringify(value.typed);
  if (typeof value !== 'string') return `[${value.map((one) => JSON.stringify(one)).join(', ')}]`;
  if (type?.kind === 'number' && (type.unit === 'days' || type.unit === 'months') && !type.isBare) {
    const count = value.replace('-', '');
    return `duration("${value.startsWith('-') ? '-' : ''}P${count}${type.unit === 'days' ? 'D' : 'M'}")`;
  }
  if (type?.kind === 'date') return `date("${value}")`;
  if (type?.kind === 'dateTime') return `date and time("${value}")`;
  const isNumber = type
    ? ['number', 'money', 'rating', 'serial'].includes(type.kind)
    : /^-?\d+(\.\d+)?$/.test(value);
  return isNumber ? value : JSON.stringify(value);
}

function dayText({ from, plus, unit, financialYear }: Extract<Expression, { kind: 'day' }>): Printed {
  const { month, day } = financialYear ?? { month: 1, day: 1 };
  const base = {
    today: 'today()',
    weekStart: 'start of week(today())',
    monthStart: 'start of month(today())',
    quarterStart: 'start of quarter(today())',
    financialYearStart: `start of financial year(today(), ${month}, ${day})`,
    yearStart: 'start of year(today())',
  }[from];
  if (plus === 0) return alone(base);
  if (unit === 'workingDay') return alone(`working days after(${base}, ${plus})`);
  if (unit === 'hour')
    return {
      ...{ text: `${base} ${plus < 0 ? '-' : '+'} duration("PT${Math.abs(plus)}H")` },
      binding: BINDING.add,
    };
  const [count, letter] =
    unit === 'week' ? [Math.abs(plus) * 7, 'D'] : [Math.abs(plus), { day: 'D', month: 'M', year: 'Y' }[unit]];
  return { text: `${base} ${plus < 0 ? '-' : '+'} duration("P${count}${letter}")`, binding: BINDING.add };
}
