import { type CompareOperator, type Expression } from '@/core/syntax/expression';
import { type Place } from './feel-places';
import { type TreeNode } from './feel-text';

import { NameReader } from './name-reader';

const FLIPPED: Record<CompareOperator, CompareOperator> = {
  '=': '=',
  '!=': '!=',
  '<': '>',
  '<=': '>=',
  '>': '<',
  '>=': '<=',
};

/** Reads comparisons and tests of membership. */
export abstract class TestReader extends NameReader {
  protected comparison(node: TreeNode, place: Place): Expression {
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

  protected all = (of: readonly Expression[]): Expression => ({ kind: 'group', operator: 'all', of });

  protected keyword(node: TreeNode): string | null {
    for (let child = node.firstChild; child; child = child.nextSibling)
      if (child.name === 'between' || child.name === 'in') return child.name;
    return null;
  }

  /** Comparing with `null` asks for presence; a constant stands on the right. */
  protected compare(
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
  protected membership(
    node: TreeNode,
    operand: Expression,
    parts: readonly TreeNode[],
    place: Place,
  ): Expression {
    const tests = parts.flatMap((part) => (part.name === 'PositiveUnaryTests' ? this.parts(part) : [part]));
    const of = tests.map((test) => this.unaryTest(node, operand, test, place));
    return of.length === 1 ? of[0]! : { kind: 'group', operator: 'any', of };
  }

  protected unaryTest(node: TreeNode, operand: Expression, test: TreeNode, place: Place): Expression {
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
}
