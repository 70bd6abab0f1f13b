import { parser } from 'lezer-feel';
import {
  certain,
  Decimal,
  firstIn,
  type Problem,
  type ProblemCode,
  measured,
  unitOf,
  type ValueType,
  type WireValue,
} from '@/core/values';
import type { Expression } from '@/core/syntax/expression';

/** What a unit of a number may be, as one of a field may. */
const UNIT = /^\S(.{0,18}\S)?$/u;

/** Of what hours come to; made once, so that it can be told from numbers that people measure in hours. */
export const HOURS_LONG: ValueType = { kind: 'number', scale: 0, unit: 'hours' };

/** A stretch of the text, by its characters. */
export interface Span {
  readonly from: number;
  readonly to: number;
}

export const feel = parser.configure({ top: 'Expression' });
export type TreeNode = ReturnType<typeof parser.parse>['topNode'];

/** Text that can't be read, with why and where. */
export class Unread extends Error {
  constructor(readonly problem: Problem) {
    super(problem.message);
  }
}

export const constant = (value: WireValue, type: ValueType): Expression => ({
  kind: 'constant',
  value,
  type,
});

/** FEEL text as it was parsed: its parts, where they stand, what is wrong with them, and the constants in it. */
export class FeelText {
  readonly spans = new Map<Expression, Span>();

  constructor(protected readonly text: string) {}

  /** Children without punctuation; an error among them is told at once. */
  protected parts(node: TreeNode): TreeNode[] {
    const found: TreeNode[] = [];
    for (let child = node.firstChild; child; child = child.nextSibling) {
      if (child.type.isError) {
        const rest = this.text.slice(child.from, child.to).trim();
        const before = this.text.slice(0, child.from).trim();
        this.fail(
          child,
          'feel.syntax',
          rest
            ? `“${rest}” can’t be read here.`
            : before
              ? `Something is missing after “${before.slice(-20)}”.`
              : 'Write an expression, such as a field or a sum.',
        );
      }
      if (/^[A-Z]/.test(child.name) && !child.name.endsWith('Comment')) found.push(child);
      else if (child.name === 'null') found.push(child);
    }
    return found;
  }

  protected at = (node: TreeNode): string => this.text.slice(node.from, node.to);

  protected fail(node: { from: number; to: number }, code: ProblemCode, message: string): never {
    const end = Math.max(node.to, Math.min(node.from + 1, this.text.length));
    throw new Unread({ code, message, data: { from: Math.min(node.from, end), to: end } });
  }

  protected mark<T extends Expression>(node: TreeNode, expression: T): T {
    this.spans.set(expression, { from: node.from, to: node.to });
    return expression;
  }

  protected number(node: TreeNode): Expression {
    const written = this.at(node).replace(/\s/g, '');
    if (!/^-?\d*\.?\d+([eE][+-]?\d{1,2})?$/.test(written) || written.length > 60)
      return this.fail(node, 'feel.number', `“${written.slice(0, 40)}” isn’t a number of at most 60 digits.`);
    const digits = new Decimal(written).toFixed();
    const scale = digits.split('.')[1]?.length ?? 0;
    return constant(digits, { kind: 'number', scale, isBare: true });
  }

  protected string(node: TreeNode): string {
    try {
      return JSON.parse(this.at(node).replace(/\n/g, '\\n').replace(/\t/g, '\\t')) as string;
    } catch {
      return this.fail(node, 'feel.text', 'A text stands between two quotes, as in "crate".');
    }
  }

  /** `date("2026-01-01")`, `date(2026, 1, 1)`, `@"2026-01-01"`, `duration("P3D")`. */
  protected dated(node: TreeNode): Expression {
    const [head, parameters] = this.parts(node);
    const isAt = head?.name === 'AtLiteral';
    const name = isAt ? 'date' : this.at(certain(head)).replace(/\s+/g, ' ');
    const given = isAt ? this.parts(head) : parameters ? this.parts(parameters) : [];
    const written =
      given.length === 1 && firstIn(given).name === 'StringLiteral' ? this.string(firstIn(given)) : null;
    if (name === 'duration' && written !== null) return this.duration(node, written);
    if (isAt && written?.startsWith('P')) return this.duration(node, written);
    if (name === 'date' && written !== null && /^\d{4}-\d{2}-\d{2}$/.test(written))
      return constant(written, { kind: 'date' });
    if (name === 'date' && given.length === 3) {
      const digits = given.map((part, at) => this.at(part).padStart(at === 0 ? 4 : 2, '0'));
      if (digits.every((part) => /^\d+$/.test(part))) return constant(digits.join('-'), { kind: 'date' });
    }
    if (name === 'date and time' && written !== null) return constant(written, { kind: 'dateTime' });
    return this.fail(
      node,
      'feel.date',
      'Write date("2026-01-31"), date(2026, 1, 31), date and time("2026-01-31T10:00:00Z") or duration("P3D").',
    );
  }

  /** `amount(0.35, "GBP/m³")`: a number in a unit. */
  protected amount(node: TreeNode, given: readonly TreeNode[]): Expression {
    const [digits, written, more] = given;
    const number = digits?.name === 'NumericLiteral' ? this.number(digits) : null;
    const unit = written?.name === 'StringLiteral' ? unitOf(this.string(written)) : '';
    if (number?.kind !== 'constant' || number.type?.kind !== 'number' || more || !UNIT.test(unit))
      return this.fail(
        node,
        'feel.unit',
        'Write a number and its unit, as amount(0.35, "GBP/m³"): at most 20 characters, with / for what it is by.',
      );
    const { isBare: _any, ...plain } = number.type;
    const [type, value] = [measured({ ...plain, unit }), String(number.value)];
    return constant(type.kind === 'money' ? { amount: value, currency: type.currency } : value, type);
  }

  /** A duration is a number of days, or of months. */
  protected duration(node: TreeNode, written: string): Expression {
    const hours = /^(-?)PT(\d{1,6})H$/.exec(written);
    if (hours) return constant(`${hours[2] === '0' ? '' : hours[1]}${Number(hours[2])}`, HOURS_LONG);
    const found = /^(-?)P(?:(\d{1,6})Y)?(?:(\d{1,6})M)?(?:(\d{1,6})D)?$/.exec(written);
    const [, sign, years, months, days] = found ?? [];
    if (!found || (days && (years ?? months)) || !(days ?? years ?? months))
      return this.fail(
        node,
        'feel.duration',
        'Write whole days as duration("P3D"), months and years as duration("P1Y6M"), or hours before or after today() as duration("PT36H").',
      );
    const count = days ? Number(days) : Number(years ?? 0) * 12 + Number(months ?? 0);
    const unit = days ? 'days' : 'months';
    return constant(`${count === 0 ? '' : sign}${count}`, { kind: 'number', scale: 0, unit });
  }
}
