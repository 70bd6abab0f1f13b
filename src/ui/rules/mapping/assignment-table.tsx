import { kindWords, OF_RUN } from '@/core/expression';
import { type Model, typeIn } from '@/core/model';
import { type AssignedValue, assignedWords, isWritable } from '@/core/rules';
import { certain, firstIn, KIND_NAMES, type Problem, type ValueType } from '@/core/values';
import { CloseOutlined } from '@ant-design/icons';
import { Button, Checkbox } from 'antd';
import { ValueInput } from '@/ui/kit/values/value-input';
import { type AssignmentDraft, fieldValue } from '@/ui/rules/drafts/cascade-draft';
import { ExpressionPart } from '@/ui/expression/expression-part';
import { fieldChoices, nameOfField, readFrom } from '@/ui/expression/field-choices';
import { Done, FormPart, MenuPart } from '@/ui/expression/part';
import { TextPart } from './text-part';
import { mapOver, MapOver, Other, type AssignedProps } from './map-over';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './assignment-table.module.css';

export interface AssignmentTableProps {
  readonly model: Model;
  /** The types of the record that cascades and of that which takes. */
  readonly source: string;
  readonly recipient: string;
  /** The type of the records across which it goes; left out where there are none. */
  readonly via?: string | null;
  readonly assignments: readonly AssignmentDraft[];
  /** Kept in step there is no before, and no text. */
  readonly isInStep?: boolean;
  /** The part of the rule at which findings of these point. */
  readonly place?: 'assignments' | 'gives';
  readonly problems: readonly Problem[];
  readonly nameOf: (id: string) => string | undefined;
  readonly onChange: (assignments: readonly AssignmentDraft[]) => void;
}

/** What is cascaded: each field that takes a value, and what it takes. */
export function AssignmentTable(props: AssignmentTableProps) {
  const {
    model,
    source,
    recipient,
    via = null,
    assignments,
    isInStep = false,
    problems,
    nameOf,
    onChange,
  } = props;
  const { place: part = 'assignments' } = props;
  if (assignments.length === 0) return null;
  const put = (at: number, next: AssignmentDraft) =>
    onChange(assignments.map((old, index) => (index === at ? next : old)));
  return (
    <table className={style.assignments} aria-label="What is cascaded">
      <thead>
        <tr>
          <th scope="col">
            <span className="visually-hidden">On</span>
          </th>
          <th scope="col">{typeIn(model, recipient).name}</th>
          <th scope="col">takes from the {typeIn(model, source).name}</th>
          <th scope="col">
            <span className="visually-hidden">Leave out</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {assignments.map((assignment, at) => {
          const target = model.field(recipient, assignment.target);
          const name = target?.name ?? assignment.target;
          const isWrong = problems.some(({ place }) => place?.startsWith(`${part}.${at}.`));
          return (
            <tr key={assignment.target} className={assignment.isOff ? style.assignmentOff : undefined}>
              <td>
                <Checkbox
                  aria-label={`${name} is cascaded`}
                  checked={!assignment.isOff}
                  onChange={(event) => put(at, { ...assignment, isOff: !event.target.checked })}
                />
              </td>
              <th scope="row">{name}</th>
              <td>
                {target ? (
                  <AssignedPart
                    {...{ model, source, recipient, via, isInStep, target, nameOf, isWrong }}
                    value={assignment.value}
                    onChange={(value) => put(at, { ...assignment, value })}
                  />
                ) : (
                  <span className={kitStyle.problemWord}>a field that isn’t there any more</span>
                )}
              </td>
              <td>
                <Button
                  type="text"
                  size="small"
                  aria-label={`Leave ${name} out`}
                  icon={<CloseOutlined />}
                  onClick={() => onChange(assignments.filter((_, index) => index !== at))}
                />
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

type Way = 'field' | 'before' | 'person' | 'moment' | 'constant' | 'map' | 'text' | 'feel' | 'empty';

const WAYS: readonly { readonly key: Way; readonly name: string }[] = [
  { key: 'field', name: 'a field' },
  { key: 'before', name: 'a field as it was before' },
  { key: 'person', name: OF_RUN.person.words },
  { key: 'moment', name: OF_RUN.moment.words },
  { key: 'constant', name: 'a value' },
  { key: 'map', name: 'a value for each option' },
  { key: 'text', name: 'text with values in it' },
  { key: 'feel', name: 'an expression' },
  { key: 'empty', name: 'nothing: it is emptied' },
];

const executionModeOf = (value: AssignedValue | null): Way | null =>
  value === null
    ? null
    : value.kind !== 'expression'
      ? value.kind
      : value.expression.kind === 'field'
        ? 'field'
        : value.expression.kind === 'constant'
          ? 'constant'
          : value.expression.kind === 'ofRun' && value.expression.what !== 'me'
            ? value.expression.what
            : 'feel';

/** Why a value can't be written into a field, in a few words. */
const unfitWords = (from: ValueType, into: ValueType): string =>
  `${kindWords(from)}; this takes ${kindWords(into)}`;

/** What one field takes. */
function AssignedPart(props: AssignedProps) {
  const { model, source, recipient, isInStep, target, value, isWrong, onChange } = props;
  const isText = target.type.kind === 'text' || target.type.kind === 'longText';
  const options = typeIn(model, source).fields.filter(
    ({ type }) => type.kind === 'choice' || type.kind === 'yesNo',
  );
  const ways = WAYS.filter(({ key }) => {
    if (isInStep && ['before', 'text', 'person', 'moment'].includes(key)) return false;
    if (key === 'person' || key === 'moment') return isWritable(OF_RUN[key].type, target.type);
    return (key !== 'text' || isText) && (key !== 'map' || options.length > 0);
  });
  const begin: Record<Way, () => AssignedValue | null> = {
    field: () => null,
    before: () => null,
    person: () => ({ kind: 'expression', expression: { kind: 'ofRun', what: 'person' } }),
    moment: () => ({ kind: 'expression', expression: { kind: 'ofRun', what: 'moment' } }),
    constant: () => ({ kind: 'expression', expression: { kind: 'constant', value: null } }),
    map: () => mapOver(firstIn(options)),
    text: () => ({ kind: 'text', text: '' }),
    feel: () => ({ kind: 'expression', expression: { kind: 'feel', text: '' } }),
    empty: () => ({ kind: 'empty' }),
  };
  const fields = fieldChoices(
    { model, type: source },
    ({ type }) => isWritable(type, target.type) || unfitWords(type, target.type),
    KIND_NAMES,
  );
  const own = typeIn(model, source).fields.filter(({ type }) => isWritable(type, target.type));
  const choices = [
    ...fields.map((field) => ({
      ...field,
      key: `field ${field.key}`,
      ...('children' in field && field.children
        ? { children: field.children.map((child) => ({ ...child, key: `field ${child.key}` })) }
        : {}),
    })),
    {
      key: 'other',
      name: 'something else …',
      children: ways
        .filter(({ key }) => key !== 'field' && key !== 'before')
        .map(({ key, name }) => ({ key, name })),
    },
    ...(isInStep
      ? []
      : [
          {
            key: 'was',
            name: 'as it was before …',
            children: own.map(({ key, name }) => ({ key: `before ${key}`, name })),
          },
        ]),
  ];
  const choose = (key: string) => {
    if (key.startsWith('field ')) {
      const { route, field } = readFrom(key.slice(6));
      onChange(fieldValue(field, route));
    } else if (key.startsWith('before ')) onChange({ kind: 'before', field: key.slice(7) });
    else onChange(begin[key as Way]());
  };
  const text = value && assignedWords(model, { type: source, route: [] }, value, target.key, recipient);
  const way = executionModeOf(value);
  const ofRun = way === 'person' || way === 'moment' ? OF_RUN[way].words : null;
  const menu = (
    <MenuPart
      label={`What ${target.name} takes`}
      text={
        way === 'field' && value?.kind === 'expression' && value.expression.kind === 'field'
          ? nameOfField({ model, type: source }, value.expression)
          : (ofRun ?? text)
      }
      hint="choose what"
      isWrong={isWrong}
      choices={choices}
      onChoose={choose}
    />
  );
  if (way === null || !['constant', 'map', 'text', 'feel'].includes(way)) return menu;
  return (
    <>
      <Detail {...props} value={certain(value)} text={text} />{' '}
      <Other choices={choices} onChoose={choose} name={target.name} />
    </>
  );
}

function Detail({
  model,
  source,
  via,
  isInStep,
  target,
  value,
  text,
  isWrong,
  nameOf,
  onChange,
}: AssignedProps & { value: AssignedValue; text: string | null }) {
  if (value.kind === 'text')
    return <TextPart {...{ model, source, via: via ?? null, target, value, isWrong, onChange }} />;
  if (value.kind === 'map') return <MapOver {...{ model, source, target, value, text, isWrong, onChange }} />;
  if (value.kind !== 'expression') return null;
  const { expression } = value;
  if (expression.kind === 'constant')
    return (
      <FormPart
        label={`Value of ${target.name}`}
        text={text}
        hint="a value"
        isWrong={isWrong}
        startsOpen={expression.value === null}
      >
        {(close) => (
          <>
            <ValueInput
              type={target.type}
              value={expression.value}
              title={typeof expression.value === 'string' ? nameOf(expression.value) : undefined}
              label={`Value of ${target.name}`}
              autoFocus
              onChange={(next) =>
                onChange({ kind: 'expression', expression: { kind: 'constant', value: next } })
              }
            />
            <Done close={close} />
          </>
        )}
      </FormPart>
    );
  return (
    <ExpressionPart
      label={`Expression for ${target.name}`}
      {...{ model, isWrong, expression }}
      usesRunContext={!isInStep}
      type={source}
      onChange={(next) => onChange(next && { kind: 'expression', expression: next })}
    />
  );
}
