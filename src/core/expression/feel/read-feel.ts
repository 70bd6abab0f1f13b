import { type Model, stepDown, typeIn, fieldIn } from '@/core/model';
import { bad, good, type Result } from '@/core/values';
import {
  type CompareOperator,
  type Expression,
  type GatherAggregate,
  MOST_NODES,
  MOST_TEXT,
} from '@/core/syntax/expression';
import { type Found, fromInside, type ListAt, type Place, type RecordAt } from './feel-places';
import { constant, feel, FeelText, type Span, type TreeNode, Unread } from './feel-text';
import { FUNCTIONS, isFunction, isListFunction, LIST_FUNCTIONS } from '@/core/syntax/functions';
import { listNames, nearest } from '@/core/expression/names';
import { prefixed } from '@/core/expression/prefixed';

/** What FEEL text stands for, and where in it each part was written. */
export interface ReadFeel {
  readonly expression: Expression;
  readonly spans: ReadonlyMap<Expression, Span>;
}

/** Names, numbers and texts. */
const WORDS = /[\p{L}\p{N}_]+|"[^"]*"/gu;

/**
 * Reads FEEL text (OMG DMN 1.4, chapter 10, as far as Oikon has it; see docs/expressions.md) as an expression on records of a type.
 * Refuses what can't be read, with where it stands (`data.from`, `data.to`, counted in characters), what was expected and what is near.
 */
export function readFeel(model: Model, type: string, text: string): Result<ReadFeel> {
  if (text.length > MOST_TEXT)
    return bad(
      'feel.size',
      `This has ${text.length.toLocaleString('en')} characters; at most ${MOST_TEXT.toLocaleString('en')} are read. Split it over several fields.`,
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
} as const satisfies Readonly<Record<string, Expression>>;
const isBare = (name: string): name is keyof typeof BARE => Object.hasOwn(BARE, name);

const field = (route: readonly string[], name: string): Expression => ({ kind: 'field', route, field: name });
const DATE_PARTS = ['year', 'month', 'day', 'weekday'] as const;
const FLIPPED: Record<CompareOperator, CompareOperator> = {
  '=': '=',
  '!=': '!=',
  '<': '>',
  '<=': '>=',
  '>': '<',
  '>=': '<=',
};

class Reader extends FeelText {
  constructor(
    private readonly model: Model,
    text: string,
  ) {
    super(text);
  }

  only(node: TreeNode, place: Place): Expression {
    const parts = this.parts(node);
    if (parts.length === 0)
      return this.fail(node, 'feel.empty', 'Write an expression, such as a field or a sum.');
    if (parts.length > 1)
      return this.fail(parts[1]!, 'feel.syntax', `“${this.at(parts[1]!)}” isn’t expected here.`);
    return this.value(parts[0]!, place);
  }

  private value(node: TreeNode, place: Place): Expression {
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

  private read(node: TreeNode, place: Place): Found {
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
        return marked(this.dated(node));
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

  private name(node: TreeNode, place: Place): Found {
    const name = this.at(node).replace(/\s+/g, ' ');
    return this.resolve(node, name, place) ?? this.unknown(node, name, place);
  }

  /** A name on the records at hand, or on those around the list in which it stands. */
  private resolve(node: TreeNode, name: string, place: Place): Found | null {
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

  private unknown(node: TreeNode, name: string, place: Place): never {
    const type = typeIn(this.model, place.type);
    const names = [
      ...type.fields.map(({ key }) => key),
      ...listNames(this.model, type.key).map((list) => list.name),
      ...place.locals.keys(),
    ];
    return this.unknownName(node, name, names, type.name);
  }

  private unknownName(node: TreeNode, name: string, names: readonly string[], of: string): never {
    const byLabel = nearest(name, names);
    const hint = byLabel
      ? ` Did you mean “${byLabel}”?`
      : ` It has ${names.slice(0, 8).join(', ')}${names.length > 8 ? ' …' : ''}.`;
    return this.fail(node, 'feel.name', `${of} has nothing called “${name}”.${hint}`);
  }

  /** A field, a linked record or a list of what was reached so far; `null` where it has nothing of the name. */
  private member(node: TreeNode, of: RecordAt, name: string): Found | null {
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

  private path(node: TreeNode, place: Place): Found {
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
      `“${this.at(base)}” is a value, which has nothing called “${name}”. A date has year, month, day and weekday.`,
    );
  }

  private unknownIn(node: TreeNode, name: string, type: string): never {
    return this.unknown(node, name, { type, locals: new Map() });
  }

  /** Further on from a list: a field of its records, the records that they name, or those beneath them. */
  private onward(node: TreeNode, named: TreeNode, list: ListAt, name: string): Found {
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

  private filter(node: TreeNode, place: Place): Found {
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

  private listsOf(place: Place): string {
    const names = listNames(this.model, place.type).map(({ name }) => name);
    return names.length > 0 ? names.slice(0, 3).join(', ') : 'the records beneath it';
  }

  /** Within a list names are read on its records; from these the links lead back up to the record around. */
  private within(list: ListAt, place: Place, local?: string): Place {
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
    return {
      kind: 'arithmetic',
      operator: operator as '+' | '-' | '*' | '/',
      left: this.value(left, place),
      right: this.value(right, place),
    };
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

  private comparison(node: TreeNode, place: Place): Expression {
    const parts = this.parts(node);
    const operand = this.value(parts[0]!, place);
    const keyword = this.keyword(node);
    if (keyword === 'between') {
      const [, low, high] = parts;
      return this.all([
        this.compare(node, '>=', operand, this.value(low!, place)),
        this.compare(node, '<=', operand, this.value(high!, place)),
      ]);
    }
    if (keyword === 'in') return this.membership(node, operand, parts.slice(1), place);
    const [, operator, right] = parts;
    if (!right) return this.fail(node, 'feel.syntax', 'Something is missing after the comparison.');
    return this.compare(node, this.at(operator!) as CompareOperator, operand, this.value(right, place));
  }

  private all = (of: readonly Expression[]): Expression => ({ kind: 'group', operator: 'all', of });

  private keyword(node: TreeNode): string | null {
    for (let child = node.firstChild; child; child = child.nextSibling)
      if (child.name === 'between' || child.name === 'in') return child.name;
    return null;
  }

  /** Comparing with `null` asks for presence; a constant stands on the right. */
  private compare(
    node: TreeNode,
    operator: CompareOperator,
    left: Expression,
    right: Expression,
  ): Expression {
    // A text without characters is empty too.
    const isNull = (part: Expression) =>
      part.kind === 'constant' && (part.value === null || part.value === '');
    if (isNull(left) || isNull(right)) {
      if (operator !== '=' && operator !== '!=')
        return this.fail(node, 'feel.null', 'Nothing is more or less than null. Ask “= null” or “!= null”.');
      const operand = isNull(left) ? right : left;
      return this.mark(node, {
        kind: 'presence',
        operator: operator === '=' ? 'isEmpty' : 'isNotEmpty',
        operand,
      });
    }
    const isFlipped = left.kind === 'constant' && right.kind !== 'constant';
    const [first, second] = isFlipped ? [right, left] : [left, right];
    return this.mark(node, {
      kind: 'compare',
      operator: isFlipped ? FLIPPED[operator] : operator,
      left: first,
      right: second,
    });
  }

  /** `in ("a", "b")`, `in [1..3]`, `in (<5, >10)`: any of the tests. */
  private membership(
    node: TreeNode,
    operand: Expression,
    parts: readonly TreeNode[],
    place: Place,
  ): Expression {
    const tests = parts.flatMap((part) => (part.name === 'PositiveUnaryTests' ? this.parts(part) : [part]));
    const of = tests.map((test) => this.unaryTest(node, operand, test, place));
    return of.length === 1 ? of[0]! : { kind: 'group', operator: 'any', of };
  }

  private unaryTest(node: TreeNode, operand: Expression, test: TreeNode, place: Place): Expression {
    let inner = test;
    while (['PositiveUnaryTest', 'SimplePositiveUnaryTest', 'ParenthesizedExpression'].includes(inner.name)) {
      const parts = this.parts(inner);
      if (parts.length === 2 && parts[0]!.name === 'CompareOp')
        return this.compare(
          node,
          this.at(parts[0]!) as CompareOperator,
          operand,
          this.value(parts[1]!, place),
        );
      inner = parts[0]!;
    }
    if (inner.name === 'List') return this.membership(node, operand, this.parts(inner), place);
    if (inner.name !== 'Interval') return this.compare(node, '=', operand, this.value(inner, place));
    const [low, high] = this.parts(inner);
    const written = this.at(inner);
    const [from, to] = [written.startsWith('[') ? '>=' : '>', written.endsWith(']') ? '<=' : '<'] as const;
    return this.all([
      this.compare(node, from, operand, this.value(low!, place)),
      this.compare(node, to, operand, this.value(high!, place)),
    ]);
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
