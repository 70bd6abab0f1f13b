'use client';

import type { KeeperView } from '@/core/api';
import { aggregateEntry, AGGREGATES, type Aggregate, type RollUpPart, targetsWithWhy } from '@/core/rules';
import { KIND_NAMES, placesOf, type ValueType } from '@/core/values';
import { Button } from 'antd';
import { fieldsWithWhy } from '@/ui/expression/field-choices';
import { isMapped, isMended, MendTarget } from '@/ui/rules/fields/mend-target';
import { Condition } from '@/ui/expression/condition';
import {
  changePart,
  isReactingDraft,
  newMap,
  type OwnDraft,
  resultOf,
  type RuleDraft,
  type SourceDraft,
} from '@/ui/rules/drafts/roll-up-draft';
import { type EditorProps, othersKeeping, problemAt } from './editor-props';
import { TargetMenu } from '@/ui/rules/fields/target-menu';
import { OwnPart } from '@/ui/rules/fields/own-parts';
import { MenuPart } from '@/ui/expression/part';
import { SourceParts } from '@/ui/rules/fields/source-parts';
import { RollUpTail } from './roll-up-tail';
import expressionStyle from '@/ui/expression/expression.module.css';

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
  const target = draft.type && draft.target ? model.field(draft.type, draft.target) : undefined;
  const roundedType = draft.map ? result : (target?.type ?? null);
  const rounded = roundedType && placesOf(roundedType);
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
    <p className={expressionStyle.sentence} aria-label="Sentence of the rule">
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
      <TargetPart
        {...{
          ...props,
          keptBy,
          result,
          isWrong: isWrong('target'),
        }}
      />{' '}
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
      <RollUpTail {...{ ...props, own, change, isWrong, keptBy, target: target ?? null, result, rounded }} />
    </p>
  );
}

interface TargetProps extends SentenceEditorProps {
  readonly keptBy: (field: string) => KeeperView | undefined;
  readonly result: ValueType | null;
  readonly isWrong: boolean;
}

/** The field that is kept, and what mends it where it doesn't fit. */
function TargetPart(props: TargetProps) {
  const { model, draft, keptBy, result, isWrong, onChange } = props;
  const type = draft.type ? model.type(draft.type) : undefined;
  const target = draft.type && draft.target ? model.field(draft.type, draft.target) : undefined;
  const into = draft.map ? null : result;
  const targets = draft.type
    ? targetsWithWhy(model, draft.type, into, (field) => keptBy(field)?.rule.name)
    : [];
  return (
    <>
      <TargetMenu
        {...{ model, isWrong, result: into }}
        type={type ?? null}
        text={target?.name ?? null}
        choices={fieldsWithWhy(targets)}
        onChoose={(key, within) => onChange(changePart(within, draft, 'target', key))}
      />
      {target && type && into && isMended(target.type, into) ? (
        <MendTarget {...{ type, target, result: into }} />
      ) : null}
      {target && into && isMapped(target.type, into) && !draft.perOption ? (
        <>
          {' '}
          <Button size="small" onClick={() => onChange(changePart(model, draft, 'map', newMap(result)))}>
            Say what is written for which result
          </Button>
        </>
      ) : null}
    </>
  );
}
