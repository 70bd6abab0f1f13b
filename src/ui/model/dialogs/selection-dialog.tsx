'use client';

import { NameInput } from './name-input';
import { sameData } from '@/core/values';
import type { RuleDefinition } from '@/core/rules';
import { type Expression, selectionsIn, typeCondition } from '@/core/expression';
import { keyOf, type Model, type ModelChange, type RecordType, type Selection } from '@/core/model';
import { useState } from 'react';
import { usePeople } from '@/ui/api/queries';
import { Condition } from '@/ui/expression/condition';
import { ChangeDialog } from './change-dialog';
import type { RuleOnModel } from '@/ui/model/rules-on';
import { clsx } from 'clsx';
import expressionStyle from '@/ui/expression/expression.module.css';
import modelStyle from '@/ui/model/model.module.css';
import style from './selection-dialog.module.css';

export interface SelectionDialogProps {
  readonly model: Model;
  readonly version: number;
  readonly type: RecordType;
  /** The selection that is changed; `null` for a new one. */
  readonly before: Selection | null;
  /** What a new one begins with. */
  readonly initial?: Expression;
  readonly onClose: () => void;
  readonly onMade?: (key: string) => void;
}

/** Names a condition, for lists, rules and proofs; or changes one, and with it everything that uses it. */
export function SelectionDialog(props: SelectionDialogProps) {
  const { model, version, type, before, initial, onClose, onMade } = props;
  const people = usePeople();
  const [name, setName] = useState(before?.name ?? '');
  const [condition, setCondition] = useState<Expression | null>(before?.condition ?? initial ?? null);
  const taken = new Set((model.selections ?? []).map((selection) => selection.key));
  const key = before?.key ?? keyOf(name, taken);
  const isWritten = condition !== null && typeCondition(model, type.key, condition).ok;
  const called = name.trim();
  const changes = (): ModelChange[] | null => {
    if (condition === null || !isWritten || called === '') return null;
    const selection = { key, name: called, type: type.key, condition };
    if (!before) return [{ kind: 'addSelection', selection }];
    const isChanged = !sameData(selection, before);
    return isChanged ? [{ kind: 'changeSelection', to: selection }] : null;
  };
  return (
    <ChangeDialog
      title={before ? `Selection “${before.name}”` : `A selection of ${type.plural.toLowerCase()}`}
      changes={changes()}
      version={version}
      apply={before ? 'Change the selection' : 'Add the selection'}
      done={before ? `“${called}” is changed.` : `“${called}” is added.`}
      onClose={onClose}
      onDone={() => onMade?.(key)}
    >
      <div className={modelStyle.modelForm}>
        <NameInput
          value={name}
          placeholder="what these have in common: Not inspected lately"
          onChange={setName}
        />
      </div>
      <p className={clsx(expressionStyle.sentence, style.selectionSentence)}>
        {type.plural}
        <Condition
          {...{ model, condition }}
          type={type.key}
          onChange={setCondition}
          nameOf={(id) => people.data?.people.find((person) => person.id === id)?.name}
        />
      </p>
    </ChangeDialog>
  );
}

export function RemoveSelectionDialog({
  version,
  selection,
  onClose,
}: {
  version: number;
  selection: Selection;
  onClose: () => void;
}) {
  return (
    <ChangeDialog
      title={`Remove the selection “${selection.name}”?`}
      changes={[{ kind: 'removeSelection', key: selection.key }]}
      version={version}
      apply="Remove it"
      isDanger
      done={`“${selection.name}” is removed.`}
      onClose={onClose}
    />
  );
}

/** Selections that a rule uses in any of its conditions and values. */
const selectionsOf = (definition: RuleDefinition): string[] =>
  definition.kind === 'cascade'
    ? [definition.condition, typeof definition.moment === 'string' ? null : definition.moment.where].flatMap(
        selectionsIn,
      )
    : definition.kind === 'create'
      ? selectionsIn(definition.condition)
      : definition.kind === 'link'
        ? [
            definition.appliesWhen,
            definition.find.kind === 'match' ? definition.find.condition : null,
          ].flatMap(selectionsIn)
        : definition.kind === 'formula'
          ? [definition.value, definition.appliesWhen, definition.otherwise].flatMap(selectionsIn)
          : [definition, ...(definition.also ?? [])].flatMap(({ condition, value }) => [
              ...selectionsIn(condition),
              ...selectionsIn(value),
            ]);

/** What uses a selection: rules, and other selections. */
export function usersOf(model: Model, rules: readonly RuleOnModel[], key: string): string[] {
  return [
    ...rules
      .filter(({ compiled }) => selectionsOf(compiled.definition).includes(key))
      .map(({ name, state }) => `the rule “${name}” (${state})`),
    ...(model.selections ?? [])
      .filter((other) => selectionsIn(other.condition).includes(key))
      .map(({ name }) => `the selection “${name}”`),
  ];
}
