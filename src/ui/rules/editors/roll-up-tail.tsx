'use client';

import type { KeeperView } from '@/core/api';
import { type Field, type Model, typeIn } from '@/core/model';
import { aggregateEntry, type RollUpPart } from '@/core/rules';
import { displayValue, isUnread, parseValue, type ValueType, type WireValue } from '@/core/values';
import { ValueInput } from '@/ui/kit/values/value-input';
import { isReactingDraft, type RuleDraft } from '@/ui/rules/drafts/roll-up-draft';
import { type EditorProps, othersKeeping } from './editor-props';
import { PercentPart } from './percent-part';
import { JoiningPart } from '@/ui/rules/fields/joining-part';
import { LimitsPart } from '@/ui/rules/fields/limits-part';
import { MapPart } from '@/ui/rules/mapping/map-part';
import { MoreMenu, OwnPart, type OwnPartProps } from '@/ui/rules/fields/own-parts';
import { Done, FormPart } from '@/ui/expression/part';
import { PacePart } from '@/ui/rules/fields/pace-part';
import { PrecedencePart } from '@/ui/rules/fields/precedence-part';
import { RoundingPart } from '@/ui/rules/fields/rounding-part';
import { PerOptionParts } from '@/ui/rules/fields/per-option-parts';
import { TogetherParts } from '@/ui/rules/fields/together-parts';
import editorsStyle from './editors.module.css';
import rulesStyle from '@/ui/rules/rules.module.css';

interface TailProps extends EditorProps<RuleDraft> {
  readonly own: Omit<OwnPartProps, 'role'>;
  readonly change: <K extends keyof RuleDraft>(part: K, chosen: RuleDraft[K]) => void;
  readonly isWrong: (part: RollUpPart) => boolean;
  /** Another live rule that keeps a field. */
  readonly keptBy: (field: string) => KeeperView | undefined;
  readonly target: Field | null;
  readonly result: ValueType | null;
  /** To how many places it is rounded; `null` where nothing is. */
  readonly rounded: number | null;
}

/** What is said of the result: how it is rounded and held, what it becomes, what stands when none count, and when it is worked out. */
export function RollUpTail(props: TailProps) {
  const { model, draft, problems, onChange, own, change, isWrong, keptBy, target, result, rounded } = props;
  const isReacting = isReactingDraft(draft);
  const isOrdered = draft.aggregate !== null && aggregateEntry(draft.aggregate).isOrdered === true;
  const fields = draft.type ? typeIn(model, draft.type).fields : [];
  return (
    <span className={editorsStyle.sentenceTail}>
      {target && rounded !== null ? (
        <RoundingPart
          rounding={draft.rounding}
          places={draft.map ? null : rounded}
          onChange={(rounding) => change('rounding', rounding)}
        />
      ) : null}
      {isOrdered && draft.together.length > 0 ? (
        <TogetherParts
          {...{ model, draft }}
          isWrong={(at) => problems.some(({ place }) => place?.startsWith(`together.${at}`))}
          isKept={(field) => keptBy(field) !== undefined}
          onChange={(together) => change('together', together)}
        />
      ) : null}
      {draft.perOption ? (
        <PerOptionParts
          {...{ model, draft, result, keptBy }}
          perOption={draft.perOption}
          isWrong={(at) =>
            at === undefined
              ? isWrong('perOption')
              : problems.some(({ place }) => place?.startsWith(`perOption.${at}.`))
          }
          onChange={(perOption) => change('perOption', perOption)}
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
          <MapPart {...{ map: draft.map, result, target, problems }} onChange={(map) => change('map', map)} />
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
      {draft.aggregate === 'percentile' ? (
        <PercentPart
          percent={draft.percent}
          isWrong={isWrong('percent')}
          onChange={(percent) => change('percent', percent)}
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
          <span className={rulesStyle.partFixed}>With the save</span>.{' '}
        </>
      ) : (
        <PacePart
          pace={draft.pace}
          isWrong={isWrong('pace')}
          asking={fields.filter((field) => field.type.kind === 'yesNo')}
          onChange={(pace) => change('pace', pace)}
        />
      )}
      <MoreMenu {...{ model, draft, onChange }} />
    </span>
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
  if (!field) return <span className={rulesStyle.partFixed}>empty</span>;
  const parsed = parseValue(field.type, draft.whenNone);
  const isLeft = isReactingDraft(draft) && draft.whenNone === null;
  const text = isLeft
    ? 'left as it is'
    : parsed.ok
      ? displayValue(field.type, parsed.value)
      : isUnread(draft.whenNone)
        ? draft.whenNone.typed
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
