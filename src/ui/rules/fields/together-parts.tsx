import { type Expression, typeValue } from '@/core/expression';
import { type Field, follow, type Model, typeIn } from '@/core/model';
import { isValueOffered, type Aggregate, targetsOffered } from '@/core/rules';
import { KIND_NAMES, firstIn } from '@/core/values';
import {
  membersOf,
  type RuleDraft,
  type SourceDraft,
  type TogetherDraft,
} from '@/ui/rules/drafts/roll-up-draft';
import { fieldChoices, LEAVE_OUT, nameOfField, readFrom } from '@/ui/expression/field-choices';
import { MenuPart } from '@/ui/expression/part';
import { TargetMenu } from './target-menu';

export interface TogetherPartsProps {
  readonly model: Model;
  readonly draft: RuleDraft;
  readonly isWrong: (at: number) => boolean;
  /** Whether another rule keeps a field of the rule's type. */
  readonly isKept: (field: string) => boolean;
  readonly onChange: (together: readonly TogetherDraft[]) => void;
}

/** Further fields that are taken from the record that leads: where each is kept, and what is taken. */
export function TogetherParts({ model, draft, isWrong, isKept, onChange }: TogetherPartsProps) {
  const { type, together, target } = draft;
  const sources: readonly SourceDraft[] = [draft, ...draft.also];
  const put = (at: number, next: TogetherDraft | null) =>
    onChange(
      next
        ? together.map((one, index) => (index === at ? next : one))
        : together.filter((_, index) => index !== at),
    );
  return (
    <>
      {together.map((one, at) => {
        const taken = [target, ...together.flatMap((other, index) => (index === at ? [] : [other.target]))];
        const isFree = (field: string) => !taken.includes(field) && !isKept(field);
        const kind = valueType(model, type, firstIn(sources), one.values[0] ?? null);
        const targets = type ? targetsOffered(model, type, kind, (field) => !isFree(field)) : [];
        const field = type && one.target ? model.field(type, one.target) : undefined;
        return (
          <span key={at}>
            {at === 0 ? 'With it ' : 'and '}
            <TargetMenu
              {...{ model }}
              label="Field that is kept with it"
              text={field?.name ?? null}
              isWrong={isWrong(at)}
              type={type ? typeIn(model, type) : null}
              result={kind}
              choices={[
                ...targets.map(({ key, name, type: of }) => ({ key, name, note: KIND_NAMES[of.kind] })),
                { key: LEAVE_OUT, name: 'leave this out', isAside: true },
              ]}
              onChoose={(key) => put(at, key === LEAVE_OUT ? null : { ...one, target: key })}
            />{' '}
            equal to its{' '}
            {sources.map((source, index) => (
              <span key={index}>
                {index > 0 ? ' or ' : ''}
                <ValueOf
                  {...{ model, draft, source, goal: field }}
                  value={one.values[index] ?? null}
                  onChange={(value) =>
                    put(at, {
                      ...one,
                      values: sources.map((_, of) => (of === index ? value : (one.values[of] ?? null))),
                    })
                  }
                />
              </span>
            ))}
            {at === together.length - 1 ? '. ' : ' '}
          </span>
        );
      })}
    </>
  );
}

function valueType(model: Model, type: string | null, source: SourceDraft, value: Expression | null) {
  const members = membersOf(model, type, source.route);
  const typed = members && value ? typeValue(model, members.type, value, { isAlone: true }) : null;
  return typed?.ok ? typed.value.type : null;
}

interface ValueOfProps {
  readonly model: Model;
  readonly draft: RuleDraft;
  readonly source: SourceDraft;
  readonly goal: Field | undefined;
  readonly value: Expression | null;
  readonly onChange: (value: Expression) => void;
}

/** What is taken of the records of one source. */
function ValueOf({ model, draft, source, goal, value, onChange }: ValueOfProps) {
  const members = membersOf(model, draft.type, source.route);
  const scope = members && { model, type: members.type };
  const aggregate: Aggregate = draft.aggregate ?? 'last';
  const fits = (field: Field, owner: string) =>
    isValueOffered(aggregate, field, owner === draft.type && field.key === goal?.key) &&
    (!goal || goal.type.kind === field.type.kind);
  const isKnown = scope && value?.kind === 'field' && follow(model, scope.type, value.route) !== undefined;
  return (
    <MenuPart
      label="What is taken with it"
      text={isKnown ? nameOfField(scope, value) : null}
      hint="a value"
      choices={scope ? fieldChoices(scope, fits, KIND_NAMES) : []}
      nothing="Choose the records first, after “over its”."
      onChoose={(key) => onChange(readFrom(key))}
    />
  );
}
