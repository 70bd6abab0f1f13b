import { certain, firstIn, currenciesIn, KIND_NAMES, lastIn } from '@/core/values';
import type { Expression } from '@/core/expression';
import { type Field, fieldIn, isAllTheWay, type Model, routeKey, typeIn, typeUp } from '@/core/model';
import {
  aggregateEntry,
  askedWords,
  type FieldRead,
  isValueOffered,
  ORDERING,
  type RouteOffer,
  routesOffered,
  routeWords,
} from '@/core/rules';
import { Condition } from '@/ui/expression/condition';
import { membersOf, type RuleDraft, type SourceDraft, withRoute } from '@/ui/rules/drafts/roll-up-draft';
import { ExchangeParts, exchangeOf, exchangeText } from './exchange-parts';
import { ExpressionPart } from '@/ui/expression/expression-part';
import { fieldChoices, LEAVE_OUT, nameOfField, readFrom } from '@/ui/expression/field-choices';
import type { Choice } from '@/ui/expression/choices';
import { MenuPart } from '@/ui/expression/part';

export interface SourcePartsProps {
  readonly model: Model;
  readonly draft: RuleDraft;
  readonly source: SourceDraft;
  /** Whether more is brought together after it. */
  readonly goesOn: boolean;
  readonly nameOf: (id: string) => string | undefined;
  readonly isWrong: (part: 'route' | 'value') => boolean;
  readonly onChange: (source: SourceDraft) => void;
  /** Left out for the first, which every rule has. */
  readonly onRemove?: () => void;
}

const EXPRESSION = 'an expression';

/** Records that are brought together, what is taken of them, and which of them count. */
export function SourceParts(props: SourcePartsProps) {
  const { model, draft, source, goesOn, nameOf, onChange } = props;
  const members = membersOf(model, draft.type, source.route);
  const isOrdered = draft.aggregate !== null && aggregateEntry(draft.aggregate).isOrdered === true;
  const isQuestion = draft.aggregate !== null && aggregateEntry(draft.aggregate).isQuestion === true;
  const hasValue = draft.aggregate !== 'count' || source.value !== null || isTargetOffered(props);
  return (
    <>
      {isQuestion ? (
        <>
          <RecordsPart {...props} />
          {askedWords(source.value?.kind ?? 'field')}
          <ValuePart {...props} />
        </>
      ) : hasValue ? (
        <>
          <ValuePart {...props} />
          {isOrdered || source.order.length > 0 ? <OrderParts {...props} /> : null} over{' '}
          <RecordsPart {...props} />
        </>
      ) : (
        <RecordsPart {...props} />
      )}
      {members && members.up.length > 0 ? (
        <>
          {' '}
          (
          <MenuPart
            label="What is reached on several ways"
            text={source.isEveryWay ? 'every way' : 'each once'}
            hint=""
            choices={[
              { key: 'once', name: 'each once', note: 'however many ways lead to it' },
              { key: 'every', name: 'every way', note: 'as often as it is reached' },
            ]}
            onChoose={(key) => onChange({ ...source, isEveryWay: key === 'every' })}
          />
          )
        </>
      ) : null}
      {members ? (
        <Condition
          {...{ model, nameOf, goesOn }}
          type={members.type}
          condition={source.condition}
          onChange={(condition) => onChange({ ...source, condition })}
        />
      ) : goesOn ? null : (
        '. '
      )}
    </>
  );
}

/** Whether a count can bring in what the rule itself gives further down. */
function isTargetOffered({ model, draft, source }: SourcePartsProps): boolean {
  const members = membersOf(model, draft.type, source.route);
  return draft.target !== null && members !== null && members.type === draft.type;
}

function RecordsPart({ model, draft, source, isWrong, onChange, onRemove }: SourcePartsProps) {
  const { type } = draft;
  const offers = type ? routesOffered(model, type) : [];
  const words = (route: RouteOffer['route']) => routeWords(model, certain(type), route);
  const choice = ({ route, type: end }: RouteOffer): Choice => {
    const last = firstIn(route.slice(-1));
    const by = last.direction === 'down' ? ` by ${fieldIn(model, last.type, last.link).name}` : '';
    return { key: routeKey(route), name: words(route), note: `${typeIn(model, end).name}${by}` };
  };
  const near = offers.filter(({ route }) => route.length === 1);
  const far = offers.filter(({ route }) => route.length > 1 && !isAllTheWay(route[0]));
  const deep = offers.filter(({ route }) => route.length > 1 && isAllTheWay(route[0]));
  const aside = (key: string, name: string, of: readonly RouteOffer[]) =>
    of.length > 0 ? [{ key, name, isAside: true, children: of.map(choice) }] : [];
  const choices = [
    ...near.map(choice),
    ...aside('far', 'further down …', far),
    ...aside('deep', 'at any depth …', deep),
    ...(onRemove ? [{ key: LEAVE_OUT, name: 'leave these out', isAside: true }] : []),
  ];
  const isOne = source.route?.length === 1;
  return (
    <>
      {source.route === null || isOne ? 'its ' : 'the '}
      <MenuPart
        label="Records that are brought together"
        text={source.route && type ? words(source.route) : null}
        hint="records beneath it"
        isWrong={isWrong('route')}
        choices={choices}
        takesSole
        nothing="Choose the type of record first."
        onChoose={(key) => {
          if (key === LEAVE_OUT) return onRemove?.();
          const offer = offers.find(({ route }) => routeKey(route) === key);
          if (offer) onChange(withRoute(model, type, source, offer.route));
        }}
      />
    </>
  );
}

function ValuePart({ model, draft, source, isWrong, onChange }: SourcePartsProps) {
  const { type, target, aggregate } = draft;
  const members = membersOf(model, type, source.route);
  const scope = members && { model, type: members.type };
  // Amounts of any currency come together once they are brought into one.
  const isExchanged = (field: Field) =>
    field.type.kind === 'anyMoney' &&
    model.rates !== null &&
    aggregateEntry(certain(aggregate)).kinds.includes('money') &&
    !aggregateEntry(certain(aggregate)).kinds.includes('anyMoney');
  const chosen = (key: string): Expression | null => {
    if (key === LEAVE_OUT) return null;
    if (key === EXPRESSION) return { kind: 'feel', text: '' };
    const amount = readFrom(key);
    if (!isExchanged(fieldIn(model, typeUp(model, certain(members).type, amount.route), amount.field)))
      return amount;
    const goal = type && target ? model.field(type, target)?.type : undefined;
    const known = () => currenciesIn(model.types.flatMap(({ fields }) => fields.map((field) => field.type)));
    const currency = goal?.kind === 'money' ? goal.currency : firstIn(known());
    return exchangeText(model, certain(members).type, { amount, currency, day: null });
  };
  const isOffered = (owner: string) => (field: { key: string }) => {
    const found = fieldIn(model, owner, field.key);
    const isTarget = owner === type && field.key === target;
    if (aggregate !== null && (isValueOffered(aggregate, found, isTarget) || isExchanged(found))) return true;
    if (aggregate === null || aggregate === 'count') return false;
    return isTarget
      ? 'this rule keeps it'
      : `${KIND_NAMES[found.type.kind]}: not for ${aggregateEntry(aggregate).words}`;
  };
  const choices = scope ? valueChoices(model, members, source.isEveryWay, isOffered) : [];
  const { value } = source;
  const exchange = value && members ? exchangeOf(model, members.type, value) : null;
  if (exchange && members)
    return (
      <ExchangeParts
        {...{ model, exchange, isWrong: isWrong('value') }}
        type={members.type}
        onChange={(next) => onChange({ ...source, value: exchangeText(model, members.type, next) })}
        onLeave={() => onChange({ ...source, value: null })}
      />
    );
  if (value && value.kind !== 'field')
    return (
      <ExpressionPart
        label="Value that is brought together"
        {...{ model, isWrong: isWrong('value') }}
        type={members?.type ?? null}
        expression={value}
        onChange={(next) => onChange({ ...source, value: next })}
      />
    );
  return (
    <MenuPart
      label="Value that is brought together"
      text={value && scope ? valueName(scope, value, members.up) : null}
      hint={aggregate === 'count' ? 'each record' : 'a value'}
      isWrong={isWrong('value')}
      choices={[
        ...choices,
        ...(members && aggregate !== 'count'
          ? [{ key: EXPRESSION, name: 'an expression …', note: 'such as pieces * weight', isAside: true }]
          : []),
        ...(aggregate === 'count' && value ? [{ key: LEAVE_OUT, name: 'each record', isAside: true }] : []),
      ]}
      takesSole={aggregate !== null && aggregate !== 'count'}
      nothing={
        members
          ? `${typeIn(model, members.type).plural} have no field that this aggregate takes.`
          : 'Choose the records first, after “over its”.'
      }
      onChoose={(key) => onChange({ ...source, value: chosen(key) })}
    />
  );
}

/** By what the first or last is found, and by what else where that is the same. */
function OrderParts({ model, draft, source, onChange }: SourcePartsProps) {
  const members = membersOf(model, draft.type, source.route);
  const scope = members && { model, type: members.type };
  const choices = scope ? fieldChoices(scope, ({ type }) => ORDERING.includes(type.kind), KIND_NAMES) : [];
  const { order } = source;
  const put = (at: number, key: string) =>
    onChange({
      ...source,
      order:
        key === LEAVE_OUT
          ? order.slice(0, at)
          : [...order.slice(0, at), readFrom(key), ...order.slice(at + 1)],
    });
  const part = (at: number, hint: string) => (
    <MenuPart
      label={at === 0 ? 'What the order goes by' : 'What the order goes by next'}
      text={scope && order[at] ? nameOfField(scope, order[at]) : null}
      hint={hint}
      choices={[...choices, ...(at > 0 && order[at] ? [{ key: LEAVE_OUT, name: 'leave this out' }] : [])]}
      nothing="Choose the records first, after “over its”."
      onChoose={(key) => put(at, key)}
    />
  );
  return (
    <>
      {' '}
      by {part(0, 'an order')}
      {order.length > 0 ? <>, then {part(1, 'by …')}</> : null},
    </>
  );
}

type Members = NonNullable<ReturnType<typeof membersOf>>;
type IsOffered = (owner: string) => (field: { key: string }) => boolean | string;

/** Over a bridge the fields at its far end, and where every way counts the bridge's own too. */
function valueChoices(
  model: Model,
  { type, up }: Members,
  isEveryWay: boolean,
  isOffered: IsOffered,
): Choice[] {
  const all = fieldChoices({ model, type }, (field, owner) => isOffered(owner)(field), KIND_NAMES);
  if (up.length === 0) return all;
  const far = all.find(({ key }) => key === `route ${up.join('.')}`)?.children ?? [];
  return isEveryWay ? [...far, ...all.filter(({ key }) => key !== `route ${up.join('.')}`)] : [...far];
}

/** What is read at the far end of a bridge is named by that end already. */
function valueName(
  scope: { readonly model: Model; readonly type: string },
  value: FieldRead,
  up: readonly string[],
): string {
  const isFar = up.length > 0 && value.route.join('.') === up.join('.');
  const name = nameOfField(scope, value);
  return isFar ? lastIn(nameOfField(scope, value).split('’s ')).replace(/^./u, (c) => c.toUpperCase()) : name;
}
