import { type Expression, printFeel, readFeel } from '@/core/expression';
import type { Model } from '@/core/model';
import type { FieldRead } from '@/core/rules';
import { currenciesIn, KIND_NAMES } from '@/core/values';
import { fieldChoices, nameOfField, readFrom } from '@/ui/expression/field-choices';
import { MenuPart } from '@/ui/expression/part';

/** An amount that is brought into one currency: what `exchange(insuredValue, "GBP", today())` says. */
export interface ExchangeDraft {
  readonly amount: FieldRead;
  readonly currency: string;
  /** The field whose day counts; `null` for today. */
  readonly day: FieldRead | null;
}

/** FEEL text that is an exchange of a field and nothing else; `null` for any other. */
export function exchangeOf(model: Model, type: string, value: Expression): ExchangeDraft | null {
  const read = value.kind === 'feel' ? readFeel(model, type, value.text) : null;
  const call = read?.ok ? read.value.expression : null;
  if (call?.kind !== 'call' || call.name !== 'exchange') return null;
  const [amount, code, day] = call.arguments;
  if (amount?.kind !== 'field' || code?.kind !== 'constant' || typeof code.value !== 'string') return null;
  const isToday = day?.kind === 'day' && day.from === 'today' && day.plus === 0;
  if (!isToday && day?.kind !== 'field') return null;
  return { amount, currency: code.value, day: day.kind === 'field' ? day : null };
}

/** The same as FEEL text. */
export function exchangeText(
  model: Model,
  type: string,
  { amount, currency, day }: ExchangeDraft,
): Expression {
  const code: Expression = { kind: 'constant', value: currency, type: { kind: 'text' } };
  const of: Expression = day ?? { kind: 'day', from: 'today', plus: 0, unit: 'day' };
  const call: Expression = { kind: 'call', name: 'exchange', arguments: [amount, code, of] };
  return { kind: 'feel', text: printFeel(model, type, call) ?? '' };
}

const TODAY = ' today';
const AS_TEXT = ' as text';

export interface ExchangePartsProps {
  readonly model: Model;
  /** The type of the records on which it is read. */
  readonly type: string;
  readonly exchange: ExchangeDraft;
  readonly isWrong: boolean;
  readonly onChange: (exchange: ExchangeDraft) => void;
  /** Another value is wanted in its place. */
  readonly onLeave: () => void;
}

/** The amount, the currency that it comes to, and the day whose rate counts. */
export function ExchangeParts({ model, type, exchange, isWrong, onChange, onLeave }: ExchangePartsProps) {
  const scope = { model, type };
  const amounts = fieldChoices(scope, (field) => field.type.kind === 'anyMoney', KIND_NAMES);
  const days = fieldChoices(scope, (field) => field.type.kind === 'date');
  return (
    <>
      <MenuPart
        label="Value that is brought together"
        text={nameOfField(scope, exchange.amount)}
        hint="an amount"
        isWrong={isWrong}
        choices={[...amounts, { key: AS_TEXT, name: 'another value …' }]}
        onChoose={(key) => (key === AS_TEXT ? onLeave() : onChange({ ...exchange, amount: readFrom(key) }))}
      />{' '}
      in{' '}
      <MenuPart
        label="Currency"
        text={exchange.currency}
        hint="a currency"
        choices={currenciesIn(model.types.flatMap(({ fields }) => fields.map((field) => field.type))).map(
          (code) => ({ key: code, name: code }),
        )}
        onChoose={(currency) => onChange({ ...exchange, currency })}
      />{' '}
      at the rate of{' '}
      <MenuPart
        label="Day whose rate counts"
        text={exchange.day ? nameOfField(scope, exchange.day) : 'today'}
        hint="a day"
        choices={[{ key: TODAY, name: 'today' }, ...days]}
        onChoose={(key) => onChange({ ...exchange, day: key === TODAY ? null : readFrom(key) })}
      />
    </>
  );
}
