'use client';

import { type CreatePart } from '@/core/rules';
import { foundIn } from '@/core/values';
import { article } from '@/core/article';
import { assignableChoices } from '@/ui/rules/drafts/cascade-draft';
import { AddField } from './add-field';
import { AssignmentTable } from '@/ui/rules/mapping/assignment-table';
import { Condition } from '@/ui/expression/condition';
import {
  assignmentOf,
  type CreateDraft,
  fieldsToFill,
  NEW_CREATE,
  withMade,
} from '@/ui/rules/drafts/create-draft';
import { type EditorProps, othersKeeping, problemAt } from './editor-props';
import { MenuPart } from '@/ui/expression/part';
import { CreateTail } from './create-tail';
import expressionStyle from '@/ui/expression/expression.module.css';

export type CreateEditorProps = EditorProps<CreateDraft>;

/** A create rule as a sentence, with the table of what is assigned beneath it. */
export function CreateEditor(props: CreateEditorProps) {
  const { model, draft, onChange, problems, nameOf } = props;
  const type = draft.type ? model.type(draft.type) : undefined;
  const made = draft.makes ? model.type(draft.makes) : undefined;
  const isWrong = (part: CreatePart) => problemAt(problems, part) !== undefined;
  const keptBy = (of: string, field: string) =>
    othersKeeping(props, of, field).find((keeper) => !keeper.isReacting && !keeper.isInStep)?.rule.name;
  const open = fieldsToFill(model, draft, keptBy);
  return (
    <div className={expressionStyle.sentence} role="group" aria-label="Sentence of the rule">
      For every{' '}
      <MenuPart
        label="Type of record for which one is made"
        text={type?.name ?? null}
        hint="type of record"
        isWrong={isWrong('type')}
        choices={model.types.map(({ key, name }) => ({ key, name }))}
        onChoose={(key) => onChange({ ...NEW_CREATE, type: key })}
      />
      {type ? (
        <Condition
          {...{ model, nameOf }}
          type={type.key}
          condition={draft.condition}
          goesOn
          onChange={(condition) => onChange({ ...draft, condition })}
        />
      ) : null}
      , make {made ? article(made.name) : 'a'}{' '}
      <MenuPart
        label="What is made"
        text={made?.name ?? null}
        hint="record of a type"
        isWrong={isWrong('makes')}
        choices={
          type
            ? model.types.filter(({ key }) => key !== type.key).map(({ key, name }) => ({ key, name }))
            : []
        }
        takesSole
        nothing="Choose the type of record first."
        onChoose={(key) => onChange(withMade(model, draft, key))}
      />
      ,{' '}
      <MenuPart
        label="How many for each"
        text={draft.each === 'once' ? 'one for each' : 'one each time'}
        hint=""
        isWrong={isWrong('each')}
        choices={[
          { key: 'once', name: 'one for each', note: 'made once, and found again' },
          { key: 'everyTime', name: 'one each time', note: 'another whenever it comes to apply' },
        ]}
        onChoose={(key) => onChange({ ...draft, each: key as CreateDraft['each'] })}
      />
      {made ? ', with ' : '. '}
      {type && made ? (
        <>
          <AssignmentTable
            {...{ model, problems, nameOf }}
            source={type.key}
            recipient={made.key}
            assignments={draft.assignments}
            onChange={(assignments) => onChange({ ...draft, assignments })}
          />
          <AddField
            {...{ model }}
            source={type.key}
            recipient={made.key}
            label="Add a field"
            text={draft.assignments.length === 0 ? null : 'another field …'}
            hint={`a field of the ${made.name}`}
            isWrong={isWrong('assignments') && problems.some(({ place }) => place === 'assignments')}
            choices={assignableChoices(open)}
            nothing={`Every field of ${made.name} that can be assigned is, or is kept by a rule.`}
            onChoose={(key) => {
              const { field } = foundIn(open, (one) => one.field.key === key);
              onChange({ ...draft, assignments: [...draft.assignments, assignmentOf(model, draft, field)] });
            }}
            onMade={({ key: target }, value) =>
              onChange({ ...draft, assignments: [...draft.assignments, { target, value, isOff: false }] })
            }
          />{' '}
          <CreateTail {...{ ...props, type, made, isWrong, keptBy }} />
        </>
      ) : null}
    </div>
  );
}
