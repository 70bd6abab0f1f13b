'use client';

import { type Field, type Model, readModel } from '@/core/model';
import { aggregateEntry, AGGREGATES, type Aggregate, type RollUpPart, targetsOffered } from '@/core/rules';
import { displayValue, KIND_NAMES, parseValue, placesOf, type WireValue } from '@/core/values';

import { useState } from 'react';
import { ValueInput } from '@/ui/kit/values/value-input';
import { Condition } from '@/ui/expression/condition';
import {
  changePart,
  isReactingDraft,
  type OwnDraft,
  resultOf,
  type RuleDraft,
  type SourceDraft,
} from './roll-up-draft';
import { type EditorProps, othersKeeping, problemAt } from './editor-props';
import { JoiningPart } from '@/ui/rules/fields/joining-part';
import { LimitsPart } from '@/ui/rules/fields/limits-part';
import { MapPart } from '@/ui/rules/mapping/map-part';
import { NewTargetDialog } from '@/ui/rules/fields/new-target';
import { MoreMenu, OwnPart } from '@/ui/rules/fields/own-parts';
import { Done, FormPart, MenuPart } from '@/ui/expression/part';
import { PacePart } from '@/ui/rules/fields/pace-part';
import { PrecedencePart } from '@/ui/rules/fields/precedence-part';
import { RoundingPart } from '@/ui/rules/fields/rounding-part';
import { SourceParts } from '@/ui/rules/fields/source-parts';
import { TogetherParts } from '@/ui/rules/fields/together-parts';

/** The model as it is once a field is made: what is read anew comes a moment later. */
const withField = (model: Model, type: string, field: Field): Model =>
  readModel(
    {
      ...model,
      types: model.types.map((one) => (one.key === type ? { ...one, fields: [...one.fields, field] } : one)),
    },
    model.settledDay,
  );

/** The choice that makes a field; no key of a field has a blank. */
const NEW_FIELD = 'new field';

export type SentenceEditorProps = EditorProps<RuleDraft>;

/** A rule as a sentence whose parts are edited in place, each offering only what fits. */
export function RollUpEditor(props: SentenceEditorProps) {
  const { model, draft, onChange, problems, nameOf } = props;
  const change = <K extends keyof RuleDraft>(part: K, chosen: RuleDraft[K]) =>
    onChange(changePart(model, draft, part, chosen));
  const isWrong = (part: RollUpPart) => problemAt(problems, part) !== undefined;
  const keptBy = (field: string) =>
    othersKeeping(props, draft.type, field).find((keeper) => !isReactingDraft(draft) || !keeper.isReacting);
  const type = draft.type ? model.type(draft.type) : undefined;
  const result = resultOf(model, draft);
  const targets = draft.type
    ? targetsOffered(model, draft.type, draft.map ? null : result, (field) => keptBy(field) !== undefined)
    : [];
  const target = draft.type && draft.target ? model.field(draft.type, draft.target) : undefined;
  const roundedType = draft.map ? result : (target?.type ?? null);
  const rounded = roundedType && placesOf(roundedType);
  const [isMaking, setMaking] = useState(false);
  const entry = draft.aggregate ? aggregateEntry(draft.aggregate) : undefined;
  const isQuestion = entry?.isQuestion === true;
  const isReacting = isReactingDraft(draft);
  const link = isReacting ? 'with' : draft.map ? 'by' : 'equal to';
  const aggregatePart = (
    <MenuPart
      label="Aggregate"
      text={entry?.words ?? null}
      hint="aggregate"
      isWrong={isWrong('aggregate')}
      choices={AGGREGATES.map(({ aggregate, words, kinds }) => ({
        key: aggregate,
        name: words,
        note: kinds.length > 0 ? `of ${kinds.map((kind) => KIND_NAMES[kind]).join(', ')}` : 'of records',
      }))}
      onChoose={(key) => change('aggregate', key as Aggregate)}
    />
  );
  const hasMore = draft.also.length > 0 || draft.own.adds !== undefined;
  const changeSource = (at: number, source: SourceDraft | null) =>
    change(
      'also',
      source === null
        ? draft.also.filter((_, index) => index !== at)
        : draft.also.map((old, index) => (index === at ? source : old)),
    );
  const own = { model, draft, onChange: (next: OwnDraft) => change('own', next), isWrong: isWrong('own') };
  return (
    <p className="sentence" aria-label="Sentence of the rule">
      On every{' '}
      <MenuPart
        label="Type of record"
        text={type?.name ?? null}
        hint="type of record"
        isWrong={isWrong('type')}
        choices={model.types
          .filter(({ key }) => model.linksTo(key).length > 0)
          .map(({ key, name }) => ({ key, name }))}
        onChoose={(key) => change('type', key)}
      />
      {isReacting && type ? (
        <Condition
          {...{ model, nameOf }}
          type={type.key}
          condition={draft.appliesWhen}
          goesOn
          onChange={(condition) => change('appliesWhen', condition)}
        />
      ) : null}
      , {isReacting ? 'change' : 'keep'}{' '}
      <MenuPart
        label="Field that is kept"
        text={target?.name ?? null}
        hint="a field"
        isWrong={isWrong('target')}
        choices={[
          ...targets.map((field) => ({
            key: field.key,
            name: field.name,
            note: KIND_NAMES[field.type.kind],
          })),
          ...(type ? [{ key: NEW_FIELD, name: 'a new field …' }] : []),
        ]}
        nothing="Choose the type of record first."
        onChoose={(key) => (key === NEW_FIELD ? setMaking(true) : change('target', key))}
      />{' '}
      {isMaking && type ? (
        <NewTargetDialog
          {...{ type, result: draft.map ? null : result }}
          onClose={() => setMaking(false)}
          onMade={(field) =>
            onChange(changePart(withField(model, type.key, field), draft, 'target', field.key))
          }
        />
      ) : null}
      {isQuestion ? (
        <>
          {link} whether {aggregatePart} of{' '}
        </>
      ) : (
        <>
          {link} the {aggregatePart} {entry?.of ?? 'of '}
        </>
      )}
      <SourceParts
        {...{ model, draft, nameOf, source: draft, goesOn: hasMore }}
        isWrong={(part) => isWrong(part)}
        onChange={({ route, value, condition, isEveryWay, order }) =>
          onChange(changePart(model, { ...draft, route, condition, isEveryWay, order }, 'value', value))
        }
      />
      {draft.also.map((source, at) => (
        <span key={at}>
          {isQuestion ? ', and ' : ', and of '}
          <SourceParts
            {...{ model, draft, nameOf, source }}
            goesOn={at < draft.also.length - 1 || draft.own.adds !== undefined}
            isWrong={(part) => problems.some(({ place }) => place?.startsWith(`also.${at}.${part}`))}
            onChange={(chosen) => changeSource(at, chosen)}
            onRemove={() => changeSource(at, null)}
          />
        </span>
      ))}
      {draft.own.adds === undefined ? null : (
        <>
          {isQuestion ? ', and it has ' : ', and of its own '}
          <OwnPart {...own} role="adds" />.{' '}
        </>
      )}
      <span className="sentence-tail">
        {target && rounded !== null ? (
          <RoundingPart
            rounding={draft.rounding}
            places={draft.map ? null : rounded}
            onChange={(rounding) => change('rounding', rounding)}
          />
        ) : null}
        {entry?.isOrdered && draft.together.length > 0 ? (
          <TogetherParts
            {...{ model, draft }}
            isWrong={(at) => problems.some(({ place }) => place?.startsWith(`together.${at}`))}
            isKept={(field) => keptBy(field) !== undefined}
            onChange={(together) => change('together', together)}
          />
        ) : null}
        {draft.limits ? (
          <LimitsPart
            limits={draft.limits}
            isWrong={isWrong('limits')}
            onChange={(limits) => change('limits', limits)}
          />
        ) : null}
        {draft.map ? (
          <>
            It becomes{' '}
            <MapPart
              {...{ map: draft.map, result, target: target ?? null, problems }}
              onChange={(map) => change('map', map)}
            />
            .{' '}
          </>
        ) : null}
        {draft.aggregate === 'joined' ? (
          <JoiningPart
            joining={draft.joining}
            isWrong={isWrong('joining')}
            onChange={(joining) => change('joining', joining)}
          />
        ) : null}
        {draft.own.standsIn === undefined ? null : (
          <>
            Where it is entered, <OwnPart {...own} role="standsIn" /> stands in.{' '}
          </>
        )}
        When none count:{' '}
        {draft.own.whenNone === undefined ? null : (
          <>
            <OwnPart {...own} role="whenNone" />, or else{' '}
          </>
        )}
        <WhenNonePart
          model={model}
          draft={draft}
          isWrong={isWrong('whenNone')}
          onChange={(value) => change('whenNone', value)}
        />
        .{' '}
        {isReacting ? (
          <>
            <PrecedencePart
              precedence={draft.precedence}
              isWrong={isWrong('precedence')}
              others={othersKeeping(props, draft.type, draft.target ?? '')
                .filter((keeper) => keeper.isReacting)
                .map(({ rule }) => rule.name)}
              onChange={(precedence) => change('precedence', precedence)}
            />
            <span className="part-fixed">With the save</span>.{' '}
          </>
        ) : (
          <PacePart
            pace={draft.pace}
            isWrong={isWrong('pace')}
            asking={type?.fields.filter((field) => field.type.kind === 'yesNo') ?? []}
            onChange={(pace) => change('pace', pace)}
          />
        )}
        <MoreMenu {...{ model, draft, onChange }} />
      </span>
    </p>
  );
}

function WhenNonePart({
  model,
  draft,
  isWrong,
  onChange,
}: {
  model: Model;
  draft: RuleDraft;
  isWrong: boolean;
  onChange: (value: WireValue) => void;
}) {
  const field = draft.type && draft.target ? model.field(draft.type, draft.target) : undefined;
  if (!field) return <span className="part-fixed">empty</span>;
  const parsed = parseValue(field.type, draft.whenNone);
  const isLeft = isReactingDraft(draft) && draft.whenNone === null;
  const text = isLeft
    ? 'left as it is'
    : parsed.ok
      ? displayValue(field.type, parsed.value)
      : String(draft.whenNone);
  return (
    <FormPart label="Value when none count" text={text} hint="empty" isWrong={isWrong}>
      {(close) => (
        <>
          <ValueInput
            type={field.type}
            value={draft.whenNone}
            onChange={onChange}
            label="Value when none count"
            isWrong={!parsed.ok}
            autoFocus
          />
          <span className="quiet">
            {isReactingDraft(draft)
              ? 'Leave it blank to leave the field as it is.'
              : 'Leave it blank for empty.'}
          </span>
          <Done close={close} />
        </>
      )}
    </FormPart>
  );
}
