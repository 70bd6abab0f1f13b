'use client';

import { type Model, typeIn } from '@/core/model';
import {
  compileRule,
  type Finding,
  holdsWords,
  type LinkPart,
  type MatchKey,
  ORDERING,
  wayWordsOf,
} from '@/core/rules';
import { certain, foundIn, hasTrait, KIND_NAMES } from '@/core/values';
import { CloseOutlined } from '@ant-design/icons';
import { Button } from 'antd';
import { Condition } from '@/ui/expression/condition';
import { type EditorProps, othersKeeping, problemAt } from './editor-props';
import { ExpressionPart } from '@/ui/expression/expression-part';
import { fieldChoices, fieldsWithWhy, nameOfField, readFrom } from '@/ui/expression/field-choices';
import {
  linkOf,
  type LinkDraft,
  linksToFill,
  namedBy,
  NEW_LINK,
  waysOffered,
} from '@/ui/rules/drafts/link-draft';
import { linkTo, useNewField } from '@/ui/rules/fields/new-field';
import { PacePart } from '@/ui/rules/fields/pace-part';
import type { Choice } from '@/ui/expression/choices';
import { MenuPart } from '@/ui/expression/part';
import { TellsPart } from '@/ui/rules/fields/tells-part';
import editorsStyle from './editors.module.css';
import expressionStyle from '@/ui/expression/expression.module.css';
import rulesStyle from '@/ui/rules/rules.module.css';

export type LinkEditorProps = EditorProps<LinkDraft>;

type Matching = Extract<Finding, { kind: 'match' }>;

/** A link rule as a sentence. */
export function LinkEditor(props: LinkEditorProps) {
  const { model, draft, onChange, problems, nameOf } = props;
  const type = draft.type ? model.type(draft.type) : undefined;
  const target = type && draft.target ? model.field(type.key, draft.target) : undefined;
  const named = namedBy(model, draft);
  const isWrong = (part: LinkPart) => problemAt(problems, part) !== undefined;
  const keptBy = (field: string) => othersKeeping(props, draft.type, field)[0]?.rule.name;
  const links = type ? linksToFill(model, type.key, keptBy) : [];
  const ways = waysOffered(model, draft);
  const { find } = draft;
  const { ask, dialog } = useNewField(model);
  const chooseTarget = (key: string) => {
    const named = newLinkTo(key);
    if (!named || !type) onChange({ ...draft, target: key, find: null });
    else
      ask({
        type,
        begins: linkTo(model, type, typeIn(model, named)),
        onMade: (field) => onChange({ ...draft, target: field.key, find: null }),
      });
  };
  return (
    <div className={expressionStyle.sentence} role="group" aria-label="Sentence of the rule">
      On every{' '}
      <MenuPart
        label="Type of record"
        text={type?.name ?? null}
        hint="type of record"
        isWrong={isWrong('type')}
        choices={model.types.map(({ key, name }) => ({ key, name }))}
        onChoose={(key) => onChange({ ...NEW_LINK, type: key })}
      />
      {type ? (
        <Condition
          {...{ model, nameOf }}
          type={type.key}
          condition={draft.appliesWhen}
          goesOn
          onChange={(appliesWhen) => onChange({ ...draft, appliesWhen })}
        />
      ) : null}
      ,{' '}
      <MenuPart
        label="When it holds"
        text={holdsWords(draft.holds)}
        hint=""
        isWrong={isWrong('holds')}
        choices={[
          { key: 'always', name: 'keep', note: 'always so; people can’t enter it where the rule applies' },
          { key: 'whereEmpty', name: 'where it is empty, link', note: 'and again when somebody clears it' },
        ]}
        onChoose={(key) => onChange({ ...draft, holds: key as LinkDraft['holds'], pace: 'withTheSave' })}
      />{' '}
      <MenuPart
        label="Link that is filled"
        text={target?.name ?? null}
        hint="a link"
        isWrong={isWrong('target')}
        choices={[...fieldsWithWhy(links), ...(type ? [newLinks(model, type.key)] : [])]}
        takesSole
        nothing={type ? 'No link of this type can be filled by a rule.' : 'Choose the type of record first.'}
        onChoose={chooseTarget}
      />
      {dialog}
      {draft.holds === 'always' ? ' linked to ' : ' to '}
      <MenuPart
        label="What it is linked to"
        text={findText(props)}
        hint="a record"
        isWrong={isWrong('find')}
        choices={ways.map(({ key, name }) => ({ key, name }))}
        takesSole
        nothing="Choose the link first."
        onChoose={(key) => onChange({ ...draft, find: foundIn(ways, (way) => way.key === key).find })}
      />
      {find?.kind === 'match' && type && named ? (
        <MatchPart {...props} find={find} named={named} isWrong={isWrong} />
      ) : null}
      {find?.kind === 'route' && find.topmost !== null ? (
        <>
          ; where nothing is above:{' '}
          <MenuPart
            label="Where nothing is above"
            text={find.whenNoneAbove === 'itself' ? 'itself' : 'none'}
            hint=""
            choices={[
              { key: 'itself', name: 'itself' },
              { key: 'empty', name: 'none' },
            ]}
            onChoose={(key) =>
              onChange({ ...draft, find: { ...find, whenNoneAbove: key as 'itself' | 'empty' } })
            }
          />
        </>
      ) : null}
      .{' '}
      {find ? (
        <span className={editorsStyle.sentenceTail}>
          When none is found:{' '}
          <MenuPart
            label="When none is found"
            text={draft.none === 'leave' ? 'left as it is' : 'emptied'}
            hint=""
            isWrong={isWrong('none')}
            choices={[
              { key: 'leave', name: 'left as it is' },
              { key: 'clear', name: 'emptied' },
            ]}
            onChoose={(key) => onChange({ ...draft, none: key as LinkDraft['none'] })}
          />
          .{' '}
          {find.kind === 'match' && find.several === 'ask' ? (
            <TellsPart tells={draft.tells} onChange={(tells) => onChange({ ...draft, tells })} />
          ) : null}
          {draft.holds === 'always' ? (
            <PacePart
              pace={draft.pace}
              isWrong={isWrong('pace')}
              asking={type?.fields.filter((field) => field.type.kind === 'yesNo') ?? []}
              onChange={(pace) => onChange({ ...draft, pace })}
            />
          ) : (
            <>
              <span className={rulesStyle.partFixed}>With the save</span>.
            </>
          )}
        </span>
      ) : null}
    </div>
  );
}

const NEW_LINK_TO = 'new link to ';

/** The type that a new link is to name, where such a one is chosen. */
const newLinkTo = (key: string): string | null =>
  key.startsWith(NEW_LINK_TO) ? key.slice(NEW_LINK_TO.length) : null;

/** Links that could be made, by what they name: a link rule doesn't fill a link to its own type. */
const newLinks = (model: Model, type: string): Choice => ({
  ...{ key: NEW_LINK_TO, name: 'a new link to …', isAside: true },
  children: model.types
    .filter(({ key }) => key !== type)
    .map(({ key, name }) => ({ key: `${NEW_LINK_TO}${key}`, name })),
});

/** Where the record is found, in words; of what is the same only its type, since the rest are parts of their own. */
function findText({ model, draft }: Pick<LinkEditorProps, 'model' | 'draft'>): string | null {
  const { find } = draft;
  if (!find) return null;
  const named = namedBy(model, draft);
  if (find.kind === 'match') return named ? `the ${typeIn(model, named).name}` : null;
  const definition = linkOf(draft);
  const compiled = definition && compileRule(model, { id: '', version: '', name: '', definition });
  if (compiled?.ok && compiled.rule.kind === 'linked' && compiled.rule.find.kind === 'route') {
    const { value, topmost } = compiled.rule.find;
    return wayWordsOf(model, { kind: 'route', value, topmost: topmost && { ...topmost, isItself: true } });
  }
  return find.route.join(' › ');
}

interface MatchProps extends LinkEditorProps {
  readonly find: Matching;
  readonly named: string;
  readonly isWrong: (part: LinkPart) => boolean;
}

/** By what it is found: fields that must be the same, and a condition. */
function MatchPart({ model, draft, find, named, nameOf, problems, onChange, isWrong }: MatchProps) {
  const put = (next: Partial<Matching>) => onChange({ ...draft, find: { ...find, ...next } });
  const type = certain(draft.type);
  const found = typeIn(model, named);
  const fields = found.fields.filter(
    ({ type: { kind }, key }) => hasTrait(kind, 'matched') && !find.keys.some((one) => one.field === key),
  );
  const putKey = (at: number, key: MatchKey) =>
    put({ keys: find.keys.map((old, index) => (index === at ? key : old)) });
  const isWrongAt = (at: number) => problems.some(({ place }) => place?.startsWith(`keys.${at}`));
  return (
    <>
      {' '}
      with the same{' '}
      {find.keys.map((key, at) => (
        <span key={key.field}>
          {at > 0 ? ' and ' : ''}
          <MenuPart
            label="Field by which it is found"
            text={model.field(named, key.field)?.name ?? key.field}
            hint="a field"
            isWrong={isWrongAt(at)}
            choices={fields.map((field) => ({
              key: field.key,
              name: field.name,
              note: KIND_NAMES[field.type.kind],
            }))}
            onChoose={(field) => putKey(at, { field, value: null })}
          />{' '}
          as its{' '}
          <KeyValue
            {...{ model, type, named }}
            value={key}
            isWrong={isWrongAt(at)}
            onChange={(value) => putKey(at, { ...key, value })}
          />
          {find.keys.length > 1 ? (
            <Button
              type="text"
              size="small"
              aria-label={`Leave ${model.field(named, key.field)?.name ?? key.field} out`}
              icon={<CloseOutlined />}
              onClick={() => put({ keys: find.keys.filter((_, index) => index !== at) })}
            />
          ) : null}
        </span>
      ))}{' '}
      {find.keys.length < 4 && fields.length > 0 ? (
        <MenuPart
          label="Another field by which it is found"
          text="and …"
          hint=""
          choices={fields.map(({ key, name, type: { kind } }) => ({ key, name, note: KIND_NAMES[kind] }))}
          onChoose={(field) => put({ keys: [...find.keys, { field, value: null }] })}
        />
      ) : null}
      ,{' '}
      <MenuPart
        label="Case"
        text={find.ignoresCase ? 'whatever the case' : 'in the same case'}
        hint=""
        choices={[
          { key: 'any', name: 'whatever the case' },
          { key: 'same', name: 'in the same case' },
        ]}
        onChoose={(key) => put({ ignoresCase: key === 'any' })}
      />
      <Condition
        {...{ model, nameOf }}
        type={named}
        condition={find.condition}
        goesOn
        onChange={(condition) => put({ condition })}
      />
      . Of several:{' '}
      <MenuPart
        label="Of several"
        text={find.several === 'ask' ? 'a person is asked' : find.order?.isLast ? 'the last' : 'the first'}
        hint=""
        isWrong={isWrong('several')}
        choices={[
          { key: 'first', name: 'the first' },
          { key: 'last', name: 'the last' },
          { key: 'ask', name: 'a person is asked', note: 'in Today' },
        ]}
        onChoose={(key) =>
          put(
            key === 'ask'
              ? { several: 'ask', order: null }
              : { several: 'first', order: { field: find.order?.field ?? null, isLast: key === 'last' } },
          )
        }
      />
      {find.several === 'first' ? (
        <>
          {' '}
          by{' '}
          <MenuPart
            label="By what several are put in order"
            text={find.order?.field ? nameOfField({ model, type: named }, find.order.field) : null}
            hint="the order of their making"
            isWrong={isWrong('order')}
            choices={[
              { key: ' ', name: 'the order of their making' },
              ...fieldChoices({ model, type: named }, ({ type: { kind } }) => ORDERING.includes(kind)),
            ]}
            onChoose={(key) =>
              put({
                order: { field: key === ' ' ? null : readFrom(key), isLast: find.order?.isLast ?? false },
              })
            }
          />
        </>
      ) : null}
    </>
  );
}

/** What of the record must be the same: a field of it or up its links, or an expression. */
function KeyValue({
  model,
  type,
  named,
  value: { field, value },
  isWrong,
  onChange,
}: {
  model: Model;
  type: string;
  named: string;
  value: MatchKey;
  isWrong: boolean;
  onChange: (value: MatchKey['value']) => void;
}) {
  const kind = model.field(named, field)?.type.kind;
  const name = model.field(named, field)?.name ?? field;
  if (value && value.kind !== 'field')
    return (
      <ExpressionPart
        label={`What ${name} must be the same as`}
        {...{ model, type, isWrong }}
        expression={value}
        onChange={onChange}
      />
    );
  return (
    <MenuPart
      label={`What ${name} must be the same as`}
      text={value ? nameOfField({ model, type }, value) : null}
      hint="a field"
      isWrong={isWrong}
      choices={[
        ...fieldChoices({ model, type }, (one) => one.type.kind === kind, KIND_NAMES),
        { key: ' ', name: 'an expression …' },
      ]}
      onChoose={(key) => onChange(key === ' ' ? { kind: 'feel', text: '' } : readFrom(key))}
    />
  );
}
