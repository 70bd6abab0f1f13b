'use client';

import { certain, KIND_NAMES, foundIn } from '@/core/values';
import { type Field, type Model, type RecordType, routeKey, type Step, typeIn } from '@/core/model';
import { bridgeOn, type CascadePart, cascadesOffered, ORDERING, recipientsWords } from '@/core/rules';
import { Checkbox } from 'antd';
import { MomentPart } from './moment-part';
import { AddField } from './add-field';
import { AssignmentTable } from '@/ui/rules/mapping/assignment-table';
import {
  assignableChoices,
  type AssignmentDraft,
  type CascadeDraft,
  fieldsToAssign,
  type KeptOf,
  NEW_CASCADE,
  reachIn,
  recipientOf,
  withField,
  withWay,
} from '@/ui/rules/drafts/cascade-draft';
import { Condition } from '@/ui/expression/condition';
import { type EditorProps, othersKeeping, problemAt } from './editor-props';
import { fieldChoices, nameOfField, readFrom } from '@/ui/expression/field-choices';
import { PacePart } from '@/ui/rules/fields/pace-part';
import { Done, FormPart, MenuPart } from '@/ui/expression/part';
import { PrecedencePart } from '@/ui/rules/fields/precedence-part';
import editorsStyle from './editors.module.css';
import expressionStyle from '@/ui/expression/expression.module.css';
import rulesStyle from '@/ui/rules/rules.module.css';
import style from './cascade-editor.module.css';

export type CascadeEditorProps = EditorProps<CascadeDraft>;

/** A cascade as a sentence, with the table of what is cascaded beneath it. */
export function CascadeEditor(props: CascadeEditorProps) {
  const { model, draft, onChange, problems, nameOf } = props;
  const type = draft.type ? model.type(draft.type) : undefined;
  const recipientKey = recipientOf(model, draft);
  const recipient = recipientKey ? model.type(recipientKey) : undefined;
  const isWrong = (part: CascadePart) => problemAt(problems, part) !== undefined;
  const keptBy = (of: string, field: string) =>
    othersKeeping(props, of, field).find((keeper) => !keeper.isReacting)?.rule.name;
  const { moment } = draft;
  const isChange = moment !== null && typeof moment !== 'string';
  const isShared = reachIn(model, draft) !== 'beneath' && reachIn(model, draft) !== 'itself';
  return (
    <div className={expressionStyle.sentence} role="group" aria-label="Sentence of the rule">
      From every{' '}
      <MenuPart
        label="Type of record that cascades"
        text={type?.name ?? null}
        hint="type of record"
        isWrong={isWrong('type')}
        choices={model.types.map(({ key, name }) => ({ key, name }))}
        onChoose={(key) => onChange({ ...NEW_CASCADE, type: key })}
      />{' '}
      to{' '}
      <MenuPart
        label="Records that take the values"
        text={type && draft.route ? recipientsWords(model, type.key, draft.route, draft.isAllTheWay) : null}
        hint="records"
        isWrong={isWrong('route')}
        choices={type ? wayChoices(model, type.key) : []}
        takesSole
        nothing="Choose the type of record first."
        onChoose={(key) => {
          const way = waysOffered(model, certain(type).key).find((one) => wayKey(one) === key);
          if (way) onChange(withWay(model, draft, way));
        }}
      />
      {reachIn(model, draft) === 'siblings' ? <SamePart {...{ model, draft, onChange }} /> : null}
      {draft.condition ? null : ','}
      {recipient && certain(draft.route).length > 0 ? (
        <Condition
          {...{ model, nameOf }}
          type={recipient.key}
          condition={draft.condition}
          goesOn
          onChange={(condition) => onChange({ ...draft, condition })}
        />
      ) : null}
      {draft.condition ? ', ' : ' '}
      <MomentPart {...{ model, draft, onChange, nameOf }} isWrong={isWrong('moment')} />
      {moment !== null && typeof moment !== 'string' && type ? (
        <Condition
          {...{ model, nameOf }}
          type={type.key}
          condition={moment.where}
          usesRunContext
          onChange={(where) => onChange({ ...draft, moment: { ...moment, where } })}
        />
      ) : (
        '. '
      )}
      {type && recipient ? (
        <AssignedFields {...props} {...{ type, recipient, keptBy }} isWrong={isWrong('assignments')} />
      ) : null}
      <span className={editorsStyle.sentenceTail}>
        {isChange ? <OnlyPart {...{ draft, onChange }} /> : null}
        {isShared ? <OrderPart {...{ model, draft, onChange }} isWrong={isWrong('order')} /> : null}
        {draft.moment === 'inStep' ? (
          <PacePart
            pace={draft.pace}
            isWrong={isWrong('pace')}
            asking={recipient?.fields.filter((field) => field.type.kind === 'yesNo') ?? []}
            onChange={(pace) => onChange({ ...draft, pace })}
          />
        ) : (
          <>
            <PrecedencePart
              precedence={draft.precedence}
              isWrong={isWrong('precedence')}
              others={draft.assignments
                .filter(({ isOff }) => !isOff)
                .flatMap(({ target }) => othersKeeping(props, recipientKey, target))
                .filter((keeper) => keeper.isReacting)
                .map(({ rule }) => rule.name)}
              onChange={(precedence) => onChange({ ...draft, precedence })}
            />
            <span className={rulesStyle.partFixed}>With the save</span>.
          </>
        )}
      </span>
    </div>
  );
}

interface AssignedProps extends CascadeEditorProps {
  readonly type: RecordType;
  readonly recipient: RecordType;
  readonly keptBy: KeptOf;
  readonly isWrong: boolean;
}

/** What is cascaded, and what else may be. */
function AssignedFields({
  model,
  draft,
  onChange,
  problems,
  nameOf,
  type,
  recipient,
  keptBy,
  isWrong,
}: AssignedProps) {
  const open = fieldsToAssign(model, draft, keptBy);
  const assign = (one: AssignmentDraft) => onChange({ ...draft, assignments: [...draft.assignments, one] });
  return (
    <>
      <AssignmentTable
        {...{ model, problems, nameOf }}
        source={type.key}
        recipient={recipient.key}
        via={bridgeOn(model, type.key, draft.route ?? [])}
        assignments={draft.assignments}
        isInStep={draft.moment === 'inStep'}
        onChange={(assignments) => onChange({ ...draft, assignments })}
      />
      <AddField
        {...{ model }}
        source={type.key}
        recipient={recipient.key}
        label="Add a field"
        text={draft.assignments.length === 0 ? null : 'another field …'}
        hint={`a field of the ${recipient.name}`}
        isWrong={isWrong && draft.assignments.length === 0}
        choices={assignableChoices(open)}
        nothing={`Every field of ${recipient.name} that can take a value is assigned, or kept by a rule.`}
        onChoose={(key) =>
          onChange(withField(model, draft, foundIn(open, ({ field }) => field.key === key).field))
        }
        onMade={({ key: target }, value) => assign({ target, value, isOff: false })}
      />{' '}
    </>
  );
}

function wayChoices(model: Model, type: string) {
  const note: Record<string, string> = {
    beneath: 'beneath it',
    across: 'over a bridge',
    above: 'that it hangs under',
    siblings: 'beside it',
    itself: 'another of its own fields',
  };
  return waysOffered(model, type).map((way) => {
    const reach = reachIn(model, { ...NEW_CASCADE, type, route: way.route });
    return {
      ...{ key: wayKey(way), name: recipientsWords(model, type, way.route, way.isAllTheWay) },
      note: reach ? note[reach]! : '',
    };
  });
}

interface Way {
  readonly route: readonly Step[];
  readonly isAllTheWay: boolean;
}

const wayKey = ({ route, isAllTheWay }: Way): string => `${routeKey(route)}${isAllTheWay ? ' *' : ''}`;

/** Down a link of the type to itself, one level or all the way. */
const waysOffered = (model: Model, type: string): Way[] =>
  cascadesOffered(model, type).flatMap((route) => {
    const [step] = route;
    const isDownItself = route.length === 1 && step?.direction === 'down' && step.type === type;
    const way = { route, isAllTheWay: false };
    return isDownItself ? [way, { route, isAllTheWay: true }] : [way];
  });

/** Only those siblings that have the same in some fields. */
function SamePart({ model, draft, onChange }: Pick<CascadeEditorProps, 'model' | 'draft' | 'onChange'>) {
  const fields = typeIn(model, certain(draft.type)).fields.filter(
    ({ key }) =>
      !certain(draft.route).some(({ link }) => link === key) &&
      !draft.assignments.some(({ target }) => target === key),
  );
  const named = fields.filter(({ key }) => draft.same.includes(key)).map(({ name }) => name);
  return (
    <>
      {' '}
      with the same{' '}
      <FormPart label="What must be the same" text={named.join(' and ') || null} hint="anything">
        {(close) => (
          <>
            <Checkbox.Group
              className={style.sameFields}
              value={[...draft.same]}
              options={fields.map(({ key, name }) => ({ value: key, label: name }))}
              onChange={(chosen) => onChange({ ...draft, same: chosen })}
            />
            <Done close={close} />
          </>
        )}
      </FormPart>
    </>
  );
}

const ONLY = {
  all: 'whatever stands there',
  empty: 'only where it is empty',
  oldValue: 'only where it still holds what was before',
} as const;

function OnlyPart({ draft, onChange }: Pick<CascadeEditorProps, 'draft' | 'onChange'>) {
  return (
    <>
      It is written{' '}
      <MenuPart
        label="Over what it is written"
        text={ONLY[draft.only]}
        hint=""
        choices={Object.entries(ONLY).map(([key, name]) => ({ key, name }))}
        onChoose={(key) => onChange({ ...draft, only: key as CascadeDraft['only'] })}
      />
      .{' '}
    </>
  );
}

/** Where several records may cascade to one in the same save. */
function OrderPart({
  model,
  draft,
  onChange,
  isWrong,
}: Pick<CascadeEditorProps, 'model' | 'draft' | 'onChange'> & { isWrong: boolean }) {
  const { order, type } = draft;
  if (!type) return null;
  const scope = { model, type };
  const fits = (field: Field) => ORDERING.includes(field.type.kind);
  return (
    <>
      {draft.moment === null || typeof draft.moment === 'string'
        ? 'Of them cascades'
        : 'Of several in one save'}{' '}
      <MenuPart
        label="Which of several goes first"
        text={order ? (order.isLast ? 'the last' : 'the first') : 'the first'}
        hint=""
        choices={[
          { key: 'first', name: 'the first' },
          { key: 'last', name: 'the last' },
        ]}
        onChoose={(key) =>
          onChange({ ...draft, order: { field: order?.field ?? null, isLast: key === 'last' } })
        }
      />{' '}
      by{' '}
      <MenuPart
        label="By what several are put in order"
        text={order?.field ? nameOfField(scope, order.field) : null}
        hint="the order of their making"
        isWrong={isWrong}
        choices={[
          { key: ' ', name: 'the order of their making' },
          ...fieldChoices(scope, fits, KIND_NAMES).map((one) => one),
        ]}
        onChoose={(key) =>
          onChange({
            ...draft,
            order: key === ' ' ? null : { field: readFrom(key), isLast: order?.isLast ?? false },
          })
        }
      />
      .{' '}
    </>
  );
}
