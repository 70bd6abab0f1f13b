import { type Model } from '@/core/model';
import { bad, good, type Result, writeCount } from '@/core/values';
import { type Expression, type GatherAggregate, MOST_NODES, MOST_TEXT } from '@/core/syntax/expression';
import { type Found, type ListAt, type Place } from './feel-places';
import { constant, feel, HOURS_LONG, type Span, type TreeNode, Unread } from './feel-text';
import { AMOUNT, FUNCTIONS, isFunction, isListFunction, LIST_FUNCTIONS } from '@/core/syntax/functions';
import { nearest } from '@/core/expression/names';
import { field } from './name-reader';
import { TestReader } from './test-reader';
import { prefixed } from '@/core/expression/prefixed';

/** What FEEL text stands for, and where in it each part was written. */
export interface ReadFeel {
  readonly expression: Expression;
  readonly spans: ReadonlyMap<Expression, Span>;
}

/** Names, numbers and texts. */
const WORDS = /[\p{L}\p{N}_]+|"[^"]*"/gu;

/**
 * Reads FEEL text (OMG DMN 1.5, chapter 10, as far as Oikon has it; see docs/expressions.md) as an expression on records of a type.
 * Refuses what can't be read, with where it stands (`data.from`, `data.to`, counted in characters), what was expected and what is near.
 */
export function readFeel(model: Model, type: string, text: string): Result<ReadFeel> {
  if (text.length > MOST_TEXT)
    return bad(
      'feel.size',
      `This has ${writeCount(text.length)} characters; at most ${writeCount(MOST_TEXT)} are read. Split it over several fields.`,
      { from: MOST_TEXT, to: text.length },
    );
  // The grammar gives up on a few hundred operands, in words that would mislead.
  const words = text.match(WORDS)?.length ?? 0;
  if (words > MOST_NODES)
    return bad(
      'expression.size',
      `This has more than ${MOST_NODES} parts, or is nested too deeply. Split it over several fields.`,
      { from: 0, to: text.length },
    );
  const reader = new Reader(model, text);
  try {
    const top = feel.parse(text).topNode;
    const expression = reader.only(top, { type, locals: new Map() });
    return good({ expression, spans: reader.spans });
  } catch (error) {
    if (error instanceof Unread) return { ok: false, problem: error.problem };
    if (error instanceof RangeError)
      return bad('feel.depth', 'This is nested too deeply. Split it over several fields.', {
        from: 0,
        to: 1,
      });
    throw error;
  }
}

/** Functions that take nothing. */
const BARE = {
  today: { kind: 'day', from: 'today', plus: 0, unit: 'day' },
  now: { kind: 'ofRun', what: 'moment' },
  person: { kind: 'ofRun', what: 'person' },
  me: { kind: 'ofRun', what: 'me' },
} as const satisfies Readonly<Record<string, Expression>>;
const isBare = (name: string): name is keyof typeof BARE => Object.hasOwn(BARE, name);

class Reader extends TestReader {
  only(node: TreeNode, place: Place): Expression {
    const parts = this.parts(node);
    if (parts.length === 0)
      return this.fail(node, 'feel.empty', 'Write an expression, such as a field or a sum.');
    if (parts.length > 1)
      return this.fail(parts[1]!, 'feel.syntax', `“${this.at(parts[1]!)}” isn’t expected here.`);
    return this.value(parts[0]!, place);
  }

  protected value(node: TreeNode, place: Place): Expression {
    const found = this.read(node, place);
    if (found.is === 'value') return found.expression;
    if (found.is === 'list')
      return this.fail(
        node,
        'feel.list',
        `“${this.at(node)}” are several records. Say what is made of them: count(…), sum(…), min(…), some … satisfies …`,
      );
    const [link] = found.route.slice(-1);
    if (link === undefined)
      return this.fail(node, 'feel.record', `“${this.at(node)}” is a record. Name one of its fields.`);
    return this.mark(node, field(found.route.slice(0, -1), link));
  }

  protected read(node: TreeNode, place: Place): Found {
    const marked = (expression: Expression): Found => ({
      is: 'value',
      expression: this.mark(node, expression),
    });
    switch (node.name) {
      case 'ParenthesizedExpression':
        return this.read(this.parts(node)[0] ?? node, place);
      case 'NumericLiteral':
        return marked(this.number(node));
      case 'StringLiteral':
        return marked(constant(this.string(node), { kind: 'text' }));
      case 'BooleanLiteral':
        return marked(constant(this.at(node) === 'true', { kind: 'yesNo' }));
      case 'null':
        return marked({ kind: 'constant', value: null });
      case 'DateTimeLiteral':
        return marked(this.dateOf(node, place) ?? this.dated(node));
      case 'VariableName':
        return this.name(node, place);
      case 'PathExpression':
        return this.path(node, place);
      case 'FilterExpression':
        return this.filter(node, place);
      case 'ArithmeticExpression':
        return marked(this.arithmetic(node, place));
      case 'Comparison':
        return marked(this.comparison(node, place));
      case 'Conjunction':
      case 'Disjunction': {
        const operator = node.name === 'Conjunction' ? 'all' : 'any';
        const of = this.parts(node).map((part) => this.value(part, place));
        return marked({ kind: 'group', operator, of });
      }
      case 'IfExpression': {
        const [condition, then, otherwise] = this.parts(node).map((part) => this.value(part, place));
        if (!condition || !then || !otherwise)
          return this.fail(node, 'feel.if', 'Write “if … then … else …”, with all three.');
        return marked({ kind: 'if', condition, then, otherwise });
      }
      case 'QuantifiedExpression':
        return marked(this.quantified(node, place));
      case 'ForExpression':
        return this.each(node, place);
      case 'FunctionInvocation':
        return this.invocation(node, place);
      default:
        this.parts(node);
        return this.fail(
          node,
          'feel.unknown',
          `“${this.at(node).slice(0, 40)}” is FEEL that Oikon doesn’t have. See the table of what it has.`,
        );
    }
  }

  private arithmetic(node: TreeNode, place: Place): Expression {
    const operands: TreeNode[] = [];
    let operator = '';
    for (const part of this.parts(node)) {
      if (part.name === 'ArithOp') operator = this.at(part);
      else operands.push(part);
    }
    if (operands.length === 1 && operator === '-')
      return { kind: 'negate', operand: this.value(operands[0]!, place) };
    const [left, right] = operands;
    if (!left || !right) return this.fail(node, 'feel.syntax', `Something is missing beside “${operator}”.`);
    if (operator === '**') return this.power(node, left, right, place);
    const [first, second] = [this.value(left, place), this.value(right, place)];
    if (second.kind === 'constant' && second.type === HOURS_LONG)
      return this.hoursFrom(node, operator, first, Number(second.value));
    return {
      ...{ kind: 'arithmetic', operator: operator as '+' | '-' | '*' | '/' },
      ...{ left: first, right: second },
    };
  }

  /** So many hours before or after today began: a moment that moves with the day. */
  private hoursFrom(node: TreeNode, operator: string, from: Expression, hours: number): Expression {
    if (from.kind === 'day' && from.plus === 0 && (operator === '+' || operator === '-'))
      return { ...from, plus: (operator === '-' ? -hours : hours) || 0, unit: 'hour' };
    return this.fail(
      node,
      'feel.duration',
      'Hours are counted from the day: write today() - duration("PT36H"), and compare a date and time with it.',
    );
  }

  /** To a whole power, as so many times itself: exact. */
  private power(node: TreeNode, left: TreeNode, right: TreeNode, place: Place): Expression {
    const exponent = Number(this.at(right));
    if (right.name !== 'NumericLiteral' || !Number.isInteger(exponent) || exponent < 1 || exponent > 9)
      return this.fail(right, 'feel.power', 'A power is a whole number from 1 to 9, written as one.');
    let result = this.value(left, place);
    for (let times = 1; times < exponent; times += 1)
      result = this.mark(node, {
        kind: 'arithmetic',
        operator: '*',
        left: result,
        right: this.value(left, place),
      });
    return result;
  }

  private quantified(node: TreeNode, place: Place): Expression {
    const [iterations, ...rest] = this.parts(node);
    const { list, name } = this.iteration(node, iterations!, place);
    const value = this.value(rest.at(-1)!, this.within(list, place, name));
    const isEvery = node.firstChild?.name === 'every';
    return this.gather(list, isEvery ? 'all' : 'any', value);
  }

  private iteration(node: TreeNode, iterations: TreeNode, place: Place): { list: ListAt; name: string } {
    const [iteration, second] = this.parts(iterations);
    if (!iteration || second)
      return this.fail(
        second ?? node,
        'feel.several',
        'One list at a time can be gone over. Nest them instead.',
      );
    const [named, context] = this.parts(iteration);
    const [source] = context?.name === 'IterationContext' ? this.parts(context) : [context];
    if (!named || !source) return this.fail(node, 'feel.syntax', 'Write “… c in crates …”.');
    const list = this.read(source, place);
    if (list.is !== 'list' || list.value)
      return this.fail(
        source,
        'feel.list',
        `“${this.at(source)}” aren’t several records. Use a list such as ${this.listsOf(place)}.`,
      );
    return { list, name: this.at(named) };
  }

  /** `for l in loans return l.fee * 2`: a list of values. */
  private each(node: TreeNode, place: Place): Found {
    const [iterations, ...rest] = this.parts(node);
    const { list, name } = this.iteration(node, iterations!, place);
    const value = this.value(rest.at(-1)!, this.within(list, place, name));
    return { ...list, value: list.onward.length > 0 ? prefixed(value, list.onward) : value, onward: [] };
  }

  private gather(list: ListAt, aggregate: GatherAggregate, value: Expression | null): Expression {
    const read = value && list.onward.length > 0 ? prefixed(value, list.onward) : value;
    const { up, down, condition } = list;
    return { kind: 'gather', aggregate, up, down, value: read, condition };
  }

  /** `date(label)`: the day that a text says; `null` of what is written as a constant. */
  private dateOf(node: TreeNode, place: Place): Expression | null {
    const [head, parameters] = this.parts(node);
    const given = parameters ? this.parts(parameters) : [];
    const [only] = given;
    if (!head || this.at(head) !== 'date' || !only || given.length > 1 || only.name === 'StringLiteral')
      return null;
    return { kind: 'call', name: 'date', arguments: [this.value(only, place)] };
  }

  private invocation(node: TreeNode, place: Place): Found {
    const [called, parameters] = this.parts(node);
    const name = this.at(called!).replace(/\s+/g, ' ').trim();
    const given = parameters ? this.parts(parameters) : [];
    const marked = (expression: Expression): Found => ({
      is: 'value',
      expression: this.mark(node, expression),
    });
    if (given.some(({ name: kind }) => kind === 'NamedParameter'))
      return this.fail(node, 'feel.named', 'Write the arguments in their order, without names.');
    if (name === 'not')
      return marked({ kind: 'group', operator: 'none', of: [this.argument(node, name, given, place)] });
    if (isBare(name)) {
      if (given.length === 0) return marked({ ...BARE[name] });
      return this.fail(node, 'feel.arguments', `${name}() takes no arguments; found ${given.length}.`);
    }
    if (name === 'contains' || name === 'starts with') return marked(this.match(node, name, given, place));
    if (name === AMOUNT) return marked(this.amount(node, given));
    if (name === 'selected') return marked(this.selection(node, given, place));
    if (isListFunction(name)) {
      const gathered = this.listFunction(node, name, given, place);
      if (gathered) return marked(gathered);
    }
    if (!isFunction(name)) return this.unknownFunction(called!, name);
    return marked({ kind: 'call', name, arguments: given.map((part) => this.value(part, place)) });
  }

  private argument(node: TreeNode, name: string, given: readonly TreeNode[], place: Place): Expression {
    if (given.length !== 1)
      return this.fail(node, 'feel.arguments', `${name}(…) takes one argument; found ${given.length}.`);
    return this.value(given[0]!, place);
  }

  private match(
    node: TreeNode,
    name: 'contains' | 'starts with',
    given: readonly TreeNode[],
    place: Place,
  ): Expression {
    const [operand, part] = given.map((one) => this.value(one, place));
    if (!operand || !part || given.length > 2)
      return this.fail(
        node,
        'feel.arguments',
        `${name}(…) takes a text and what to look for; found ${given.length} arguments.`,
      );
    return { kind: 'match', operator: name === 'contains' ? 'contains' : 'startsWith', operand, part };
  }

  /** `selected("lately")` or `selected(exhibition, "lately")`: in a selection. */
  private selection(node: TreeNode, given: readonly TreeNode[], place: Place): Expression {
    const last = given.at(-1);
    const of =
      given.length === 2
        ? this.read(given[0]!, place)
        : ({ is: 'record', type: place.type, route: [] } as const);
    if (last?.name !== 'StringLiteral' || given.length > 2 || of.is !== 'record')
      return this.fail(
        node,
        'feel.arguments',
        'Write selected("…") with the key of a selection, or selected(exhibition, "…").',
      );
    return { kind: 'selection', operator: 'isIn', route: of.route, selection: this.string(last) };
  }

  /** `null`: it isn't given a list, and may be a function of values. */
  private listFunction(
    node: TreeNode,
    name: keyof typeof LIST_FUNCTIONS,
    given: readonly TreeNode[],
    place: Place,
  ): Expression | null {
    const [only] = given;
    const isOfValues = (name === 'min' || name === 'max') && given.length !== 1;
    if (isOfValues) return null;
    if (!only || given.length > 1)
      return this.fail(node, 'feel.arguments', `${name}(…) takes one list; found ${given.length} arguments.`);
    const list = this.read(only, place);
    if (list.is !== 'list')
      return this.fail(
        only,
        'feel.list',
        `${name}(…) takes a list such as ${this.listsOf(place)}; “${this.at(only)}” is one value.`,
      );
    const { aggregate } = LIST_FUNCTIONS[name];
    const link =
      list.value === null && list.onward.length > 0
        ? field(list.onward.slice(0, -1), list.onward.at(-1)!)
        : null;
    const value = list.value ?? link;
    if (aggregate !== 'count' && !value)
      return this.fail(
        only,
        'feel.list',
        `${name}(…) needs a field of these records, as in ${name}(${this.at(only)}.…).`,
      );
    const { up, down, condition } = list;
    return { kind: 'gather', aggregate, up, down, value, condition };
  }

  private unknownFunction(node: TreeNode, name: string): never {
    const names = [
      ...Object.keys(FUNCTIONS),
      ...Object.keys(LIST_FUNCTIONS),
      'not',
      'contains',
      'starts with',
      ...Object.keys(BARE),
      'selected',
    ];
    const near = nearest(name, names);
    return this.fail(
      node,
      'feel.function',
      `There is no function “${name}”.${near ? ` Did you mean “${near}”?` : ' See the table of functions.'}`,
    );
  }
}
