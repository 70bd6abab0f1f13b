import { fieldIn } from '@/core/model';
import { bad, good, isCurrency, itemAt, type Result } from '@/core/values';
import type { Expression, Typed, TypedField } from '@/core/syntax/expression';
import { kindWords } from '@/core/expression/typing/amounts';
import { at, type Place, type Scope, type TypeNode } from '@/core/expression/typing/scope';

/** `exchange(insuredValue, "GBP", dueBack)`: an amount in another currency, at the rate of a day. */
export function typeExchange(
  scope: Scope,
  node: Extract<Expression, { kind: 'call' }>,
  place: Place,
  typeNode: TypeNode,
): Result<Typed> {
  const where = (index: number) => [...place, 'arguments', index];
  if (node.arguments.length !== 3) {
    const message = `Write exchange(amount, "GBP", day); found ${node.arguments.length} ${node.arguments.length === 1 ? 'argument' : 'arguments'}.`;
    return at(place, bad('expression.arguments', message));
  }
  const { rates } = scope.model;
  if (!rates)
    return at(
      place,
      bad(
        'expression.rates',
        'No type of this model holds rates of currencies. In Model, say of the type that does which of its fields are pair, day and rate.',
      ),
    );
  const given = (index: number) => typeNode(scope, itemAt(node.arguments, index), where(index), null);
  const [amount, code, day] = [given(0), given(1), given(2)];
  if (!amount.ok) return amount;
  if (!code.ok) return code;
  if (!day.ok) return day;
  const { type } = amount.value;
  if (type.kind !== 'money' && type.kind !== 'anyMoney')
    return at(
      where(0),
      bad('expression.unlike', `exchange(…) takes money here; this is ${kindWords(type)}.`),
    );
  const written = code.value;
  const currency = written.kind === 'constant' && typeof written.value === 'string' ? written.value : '';
  if (!isCurrency(currency))
    return at(
      where(1),
      bad(
        'expression.literal',
        'exchange(…) takes its currency as an ISO 4217 code in quotes, such as "GBP".',
      ),
    );
  if (day.value.type.kind !== 'date') {
    const message = `exchange(…) takes the day whose rate counts here; this is ${kindWords(day.value.type)}.`;
    return at(where(2), bad('expression.unlike', message));
  }
  const field = (key: string): TypedField => ({
    ...{
      kind: 'field',
      type: fieldIn(scope.model, rates.type, key).type,
      from: rates.type,
      owner: rates.type,
    },
    ...{ route: [], field: key },
  });
  return good({
    ...{ kind: 'exchange', type: { kind: 'money', currency }, amount: amount.value, day: day.value },
    rates: { type: rates.type, pair: field(rates.pair), day: field(rates.day), rate: field(rates.rate) },
  });
}
