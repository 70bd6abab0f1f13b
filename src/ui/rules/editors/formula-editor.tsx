'use client';

import { isWritable, unlikeWords, whyClosed } from '@/core/rules';
import { certain, KIND_NAMES, placesOf, type ValueType } from '@/core/values';
import type { PieceView } from '@/core/verify';
import { typeValue } from '@/core/expression';
import { Condition } from '@/ui/expression/condition';
import { fieldsWithWhy } from '@/ui/expression/field-choices';
import { type EditorProps, othersKeeping, problemAt } from './editor-props';
import { FeelInput } from '@/ui/expression/feel/feel-input';
import { type FormulaDraft, withTarget } from '@/ui/rules/drafts/formula-draft';
import { MenuPart } from '@/ui/expression/part';
import { LimitsPart } from '@/ui/rules/fields/limits-part';
import { PacePart } from '@/ui/rules/fields/pace-part';
import { RoundingPart } from '@/ui/rules/fields/rounding-part';
import { TargetMenu } from '@/ui/rules/fields/target-menu';
import { clsx } from 'clsx';
import editorsStyle from './editors.module.css';
import expressionStyle from '@/ui/expression/expression.module.css';
import style from './formula-editor.module.css';

export interface FormulaEditorProps extends EditorProps<FormulaDraft> {
  /** What the pieces of the text come to on the record of the worked example. */
  readonly pieces: readonly PieceView[];
}

/** A formula as a sentence: where it applies, what it keeps, and the expression in an editor of its own. */
export function FormulaEditor(props: FormulaEditorProps) {
  const { model, draft, onChange, problems, nameOf, pieces } = props;
  const type = draft.type ? model.type(draft.type) : undefined;
  const target = draft.type && draft.target ? model.field(draft.type, draft.target) : undefined;
  const at = (part: string) => problemAt(problems, part) ?? null;
  const keptBy = (field: string) => othersKeeping(props, draft.type, field)[0]?.rule.name;
  const typed =
    type && draft.text.trim() ? typeValue(model, type.key, { kind: 'feel', text: draft.text }) : null;
  const result = typed?.ok ? typed.value.type : null;
  const targets = (type?.fields ?? []).map((field) => ({
    field,
    why:
      whyClosed(field, keptBy) ??
      (result === null || isWritable(result, field.type) ? null : unlikeWords(result, field.type)),
  }));
  const unread = typed && !typed.ok && !target ? typed.problem : null;
  return (
    <div className={expressionStyle.sentence} role="group" aria-label="Sentence of the rule">
      On every{' '}
      <MenuPart
        label="Type of record"
        text={type?.name ?? null}
        hint="type of record"
        isWrong={at('type') !== null}
        choices={model.types.map(({ key, name }) => ({ key, name }))}
        onChoose={(key) =>
          onChange({ ...draft, type: key, target: null, appliesWhen: null, pace: 'withTheSave' })
        }
      />
      , keep{' '}
      <TargetMenu
        {...{ model, result }}
        type={type ?? null}
        text={target?.name ?? null}
        isWrong={at('target') !== null}
        choices={fieldsWithWhy(targets)}
        onChoose={(key, within) => onChange(withTarget(within, draft, key))}
      />{' '}
      equal to
      <FeelInput
        {...{ model, pieces }}
        type={draft.type}
        text={draft.text}
        onChange={(text) => onChange({ ...draft, text })}
        problem={at('value') ?? unread}
        label="Expression"
        placeholder={
          type ? 'if exhibition.closes > today() then … else …' : 'Choose the type of record first.'
        }
      />
      {unread ? <p className={clsx('finding', style.feelFinding)}>{unread.message}</p> : null}
      <span className={editorsStyle.sentenceTail}>
        {result ? <span className="quiet">It gives {kindOf(result)}. </span> : null}
        {target && placesOf(target.type) !== null ? (
          <RoundingPart
            rounding={draft.rounding}
            places={certain(placesOf(target.type))}
            onChange={(rounding) => onChange({ ...draft, rounding })}
          />
        ) : null}
        {draft.limits ? (
          <LimitsPart
            limits={draft.limits}
            isWrong={at('limits') !== null}
            onChange={(limits) => onChange({ ...draft, limits })}
          />
        ) : null}
        {type ? (
          <>
            It applies to all of them
            <Condition
              {...{ model, nameOf }}
              type={type.key}
              condition={draft.appliesWhen}
              onChange={(appliesWhen) => onChange({ ...draft, appliesWhen })}
            />
          </>
        ) : null}
        {draft.appliesWhen && type ? (
          <>
            {' '}
            Otherwise:
            <FeelInput
              model={model}
              type={draft.type}
              text={draft.otherwise}
              onChange={(otherwise) => onChange({ ...draft, otherwise })}
              problem={at('otherwise')}
              label="What stands otherwise"
              placeholder="empty"
            />
          </>
        ) : null}
        <PacePart
          pace={draft.pace}
          isWrong={at('pace') !== null}
          asking={type?.fields.filter((field) => field.type.kind === 'yesNo') ?? []}
          onChange={(pace) => onChange({ ...draft, pace })}
        />
        {target && placesOf(target.type) !== null && !draft.limits ? (
          <MenuPart
            label="Add to the sentence"
            text="more …"
            hint=""
            choices={[{ key: 'limits', name: 'limits', note: 'a result beyond them becomes the limit' }]}
            onChoose={() => onChange({ ...draft, limits: {} })}
          />
        ) : null}
      </span>
    </div>
  );
}

const kindOf = (type: ValueType): string =>
  type.kind === 'money'
    ? `money in ${type.currency}`
    : type.kind === 'number' && type.unit
      ? `a number in ${type.unit}`
      : KIND_NAMES[type.kind];
