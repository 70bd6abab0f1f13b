'use client';

import { fieldIn, type Model, type RecordType, typeIn } from '@/core/model';
import { afterwardsWords, type CreatePart, type ExecutionMode, executionModeWords } from '@/core/rules';
import { certain, firstIn } from '@/core/values';
import { Radio, Select } from 'antd';
import { ValueInput } from '@/ui/kit/values/value-input';
import { assignableChoices, type KeptOf } from '@/ui/rules/drafts/cascade-draft';
import { AddField } from './add-field';
import { AssignmentTable } from '@/ui/rules/mapping/assignment-table';
import { type CreateDraft, fieldsToGive } from '@/ui/rules/drafts/create-draft';
import { type EditorProps } from './editor-props';
import { PacePart } from '@/ui/rules/fields/pace-part';
import { Done, FormPart, MenuPart } from '@/ui/expression/part';
import { TellsPart } from '@/ui/rules/fields/tells-part';
import { aNewLink, linkTo, NEW_FIELD, useNewField } from '@/ui/rules/fields/new-field';
import { ExecutionPart } from '@/ui/rules/fields/execution-part';
import editorsStyle from './editors.module.css';

const MAKING: Readonly<Record<ExecutionMode, string>> = {
  directly: 'it is there at once',
  proposal: 'it waits in Today until a person approves it',
  both: 'it is there at once, and stands in Today',
  not: 'only when a person asks for it',
};

const FOLLOWING: Readonly<Record<ExecutionMode, string>> = {
  directly: 'they are written at once',
  proposal: 'they wait in Today until a person approves them',
  both: 'they are written at once, and stand in Today',
  not: 'what was made stays as it was',
};

const RETURNING: Readonly<Record<ExecutionMode, string>> = {
  directly: 'both sides can be edited; where both change, this side stands',
  proposal: 'they wait in Today until a person approves them',
  both: 'they are written at once, and stand in Today',
  not: 'what follows can’t be edited there',
};

interface TailProps extends EditorProps<CreateDraft> {
  readonly type: RecordType;
  readonly made: RecordType;
  readonly isWrong: (part: CreatePart) => boolean;
  readonly keptBy: KeptOf;
}

/** What is said of what was made: what goes back, how it is made and followed, what becomes of it, and when. */
export function CreateTail(props: TailProps) {
  const { model, draft, onChange, problems, nameOf, type, made, isWrong, keptBy } = props;
  const givable = fieldsToGive(model, draft, keptBy);
  const isAskedOnly = typeof draft.pace !== 'string' && draft.pace.kind === 'onRequest';
  return (
    <span className={editorsStyle.sentenceTail}>
      The {type.name} is given{' '}
      {draft.gives.length === 0 ? null : (
        <AssignmentTable
          {...{ model, problems, nameOf }}
          place="gives"
          source={made.key}
          recipient={type.key}
          assignments={draft.gives}
          onChange={(gives) => onChange({ ...draft, gives })}
        />
      )}
      <AddField
        {...{ model }}
        source={made.key}
        recipient={type.key}
        label="Give a field"
        text={draft.gives.length === 0 ? 'nothing' : 'another field …'}
        hint=""
        choices={assignableChoices(givable)}
        nothing={`Every field of ${type.name} that can take a value is given one, or kept by a rule.`}
        onChoose={(key) =>
          onChange({ ...draft, gives: [...draft.gives, { target: key, value: null, isOff: false }] })
        }
        onMade={({ key: target }, value) =>
          onChange({ ...draft, gives: [...draft.gives, { target, value, isOff: false }] })
        }
      />
      . <LinksPart {...{ model, draft, onChange }} isWrong={isWrong('links')} />
      <ModeParts {...{ model, draft, onChange, type, isWrong }} />. When it no longer applies, what was made
      is <AfterwardsPart {...{ model, draft, onChange }} isWrong={isWrong('afterwards')} />.{' '}
      {isProposing(draft) ? (
        <TellsPart tells={draft.tells} onChange={(tells) => onChange({ ...draft, tells })} />
      ) : null}
      <PacePart
        pace={draft.pace}
        isWrong={isWrong('pace')}
        kinds={['withTheSave', 'timetable', 'onRequest']}
        asking={[]}
        onChange={(pace) => onChange({ ...draft, pace })}
      />
      {isAskedOnly ? null : (
        <MenuPart
          label="Whether a person may ask for one"
          text={draft.mayAsk ? 'A person may also ask for one' : 'Nobody asks for one'}
          hint=""
          choices={[
            {
              key: 'yes',
              name: 'A person may also ask for one',
              note: 'by a button on the record’s page',
            },
            { key: 'no', name: 'Nobody asks for one' },
          ]}
          onChoose={(key) => onChange({ ...draft, mayAsk: key === 'yes' })}
        />
      )}
      {isAskedOnly ? null : '.'}
    </span>
  );
}

type ModeProps = Pick<TailProps, 'model' | 'draft' | 'onChange' | 'type' | 'isWrong'>;

/** How it is made, how later changes follow, and how changes of it go back. */
function ModeParts({ model, draft, onChange, type, isWrong }: ModeProps) {
  return (
    <>
      It is made{' '}
      <ExecutionPart
        label="How it is made"
        {...{ model, type: type.key, onChange: (making) => onChange({ ...draft, making }) }}
        way={draft.making}
        text={executionModeWords(model, type.key, draft.making)}
        notes={MAKING}
        isWrong={isWrong('making')}
      />
      ; later changes{' '}
      <ExecutionPart
        label="How later changes follow"
        {...{ model, type: type.key, onChange: (following) => onChange({ ...draft, following }) }}
        way={draft.following}
        text={
          draft.following === 'not'
            ? 'don’t follow'
            : `follow ${executionModeWords(model, type.key, draft.following)}`
        }
        notes={FOLLOWING}
        isWrong={isWrong('following')}
      />
      {draft.following === 'not' ? null : (
        <>
          ; changes of it{' '}
          <ExecutionPart
            label="How changes of it go back"
            {...{ model, type: type.key, onChange: (returning) => onChange({ ...draft, returning }) }}
            way={draft.returning}
            text={
              draft.returning === 'not'
                ? 'don’t go back'
                : `go back ${executionModeWords(model, type.key, draft.returning)}`
            }
            notes={RETURNING}
            isWrong={isWrong('returning')}
          />
        </>
      )}
    </>
  );
}

/** Whether anything is ever proposed, or done and told. */
const isProposing = ({ making, following, returning, tells }: CreateDraft): boolean =>
  tells !== null ||
  [making, following, returning]
    .flatMap((way) => (typeof way === 'string' ? [way] : [...way.rows.map((row) => row.way), way.otherwise]))
    .some((way) => way === 'proposal' || way === 'both');

interface PartProps extends Pick<EditorProps<CreateDraft>, 'model' | 'draft' | 'onChange'> {
  readonly isWrong: boolean;
}

const NO_LINK = ' ';

/** The links by which the two name each other. */
function LinksPart({ model, draft, onChange, isWrong }: PartProps) {
  const [type, made] = [typeIn(model, certain(draft.type)), typeIn(model, certain(draft.makes))];
  const backs = model.linksFrom(made.key).filter(({ parent }) => parent === type.key);
  const forwards = model
    .linksFrom(type.key)
    .filter(({ parent, field }) => parent === made.key && !field.required);
  const names = [
    ...(draft.back === null ? [] : [`${fieldIn(model, made.key, draft.back).name} of the ${made.name}`]),
    ...(draft.forward === null
      ? []
      : [`${fieldIn(model, type.key, draft.forward).name} of the ${type.name}`]),
  ];
  return (
    <>
      They are linked by{' '}
      <FormPart
        label="Links between the two"
        text={names.join(' and ') || null}
        hint="no link"
        isWrong={isWrong}
      >
        {(close) => (
          <>
            <LinkChoice
              {...{ owner: made, named: type, links: backs, link: draft.back, model }}
              onChange={(link) =>
                onChange({
                  ...draft,
                  back: link,
                  assignments: draft.assignments.filter(({ target }) => target !== link),
                })
              }
            />
            <LinkChoice
              {...{ owner: type, named: made, links: forwards, link: draft.forward, model }}
              onChange={(link) => onChange({ ...draft, forward: link })}
            />
            <Done close={close} />
          </>
        )}
      </FormPart>
      .{' '}
    </>
  );
}

interface LinkChoiceProps {
  readonly model: Model;
  readonly owner: RecordType;
  readonly named: RecordType;
  readonly links: ReturnType<Model['linksFrom']>;
  readonly link: string | null;
  readonly onChange: (link: string | null) => void;
}

/** By which of its links a record of one type names one of the other, or that it doesn't; a link can be made for it. */
function LinkChoice({ model, owner, named, links, link, onChange }: LinkChoiceProps) {
  const { ask, dialog } = useNewField(model);
  const choose = (key: string) => {
    if (key !== NEW_FIELD) onChange(key === NO_LINK ? null : key);
    else
      ask({
        type: owner,
        begins: linkTo(model, owner, named),
        onMade: (field) => onChange(field.key),
      });
  };
  return (
    <label>
      {owner.name} names the {named.name} as{' '}
      <Select
        aria-label={`Link of the ${owner.name}`}
        style={{ width: 200 }}
        value={link ?? NO_LINK}
        options={[
          { value: NO_LINK, label: 'nothing' },
          ...links.map((one) => ({ value: one.link, label: one.field.name })),
          { value: aNewLink.key, label: aNewLink.name },
        ]}
        onChange={choose}
      />
      {dialog}
    </label>
  );
}

/** What becomes of what was made, once the record leaves the condition or is deleted. */
function AfterwardsPart({ model, draft, onChange, isWrong }: PartProps) {
  const { afterwards } = draft;
  const made = typeIn(model, certain(draft.makes));
  const marks = made.fields.filter(({ type: { kind } }) =>
    ['text', 'choice', 'yesNo', 'rating', 'number'].includes(kind),
  );
  const kind = typeof afterwards === 'string' ? afterwards : 'marked';
  const field =
    typeof afterwards === 'string' ? undefined : made.fields.find(({ key }) => key === afterwards.field);
  return (
    <FormPart
      label="What becomes of it"
      text={afterwardsWords(model, { makes: made.key, afterwards })}
      hint=""
      isWrong={isWrong}
    >
      {(close) => (
        <>
          <Radio.Group
            aria-label="What becomes of it"
            value={kind}
            orientation="vertical"
            options={[
              { value: 'left', label: 'left as it is' },
              { value: 'marked', label: 'marked: a field of it is written', disabled: marks.length === 0 },
              {
                value: 'unlinked',
                label: 'unlinked: the links between the two are emptied',
                disabled: draft.back === null && draft.forward === null,
              },
              { value: 'removed', label: 'put into the bin, from which it comes back when it applies again' },
            ]}
            onChange={(event) => {
              const chosen = event.target.value as typeof kind;
              onChange({
                ...draft,
                afterwards:
                  chosen === 'marked' ? { kind: 'marked', field: firstIn(marks).key, value: null } : chosen,
              });
            }}
          />
          {typeof afterwards !== 'string' && field ? (
            <span className="marks">
              <Select
                aria-label="Field that marks it"
                style={{ width: 160 }}
                value={afterwards.field}
                options={marks.map(({ key, name }) => ({ value: key, label: name }))}
                onChange={(key: string) =>
                  onChange({ ...draft, afterwards: { kind: 'marked', field: key, value: null } })
                }
              />{' '}
              becomes{' '}
              <ValueInput
                type={field.type}
                value={afterwards.value}
                label="Value that marks it"
                onChange={(value) => onChange({ ...draft, afterwards: { ...afterwards, value } })}
              />
            </span>
          ) : null}
          <span className="quiet">Also when the record itself goes into the bin.</span>
          <Done close={close} />
        </>
      )}
    </FormPart>
  );
}
