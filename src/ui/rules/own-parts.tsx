import { conversion, KIND_NAMES } from '@/core/values';
import { follow, type Model } from '@/core/model';
import { aggregateEntry, isValueOffered } from '@/core/rules';
import { NEW_SOURCE, type OwnDraft, type RuleDraft } from './draft';
import { fieldChoices, nameOfField, readFrom } from './field-choices';
import { MenuPart } from './part';

type Role = keyof OwnDraft;

const ROLES: readonly { readonly role: Role; readonly name: string; readonly note: string }[] = [
  { role: 'adds', name: 'its own value', note: 'is brought together with the others' },
  { role: 'standsIn', name: 'what stands in for them', note: 'its own value, where it is entered' },
  { role: 'whenNone', name: 'its own value when none count', note: 'in place of what stands then' },
];

const LEAVE_OUT = ' ';

export interface OwnPartProps {
  readonly model: Model;
  readonly draft: RuleDraft;
  readonly role: Role;
  readonly isWrong: boolean;
  readonly onChange: (own: OwnDraft) => void;
}

/** A value of the record itself that takes part: a field of it, or of a record up its links. */
export function OwnPart({ model, draft, role, isWrong, onChange }: OwnPartProps) {
  const { type, target, aggregate } = draft;
  const chosen = draft.own[role];
  const goal = type && target ? model.field(type, target) : undefined;
  const choices = type
    ? fieldChoices(
        { model, type },
        (field, owner) => {
          if (owner === type && field.key === target) return false;
          if (role === 'adds') return aggregate !== null && isValueOffered(aggregate, field, false);
          return goal !== undefined && conversion(field.type, goal.type) !== null;
        },
        KIND_NAMES,
      )
    : [];
  return (
    <MenuPart
      label={ROLES.find((one) => one.role === role)!.name}
      text={chosen && type && follow(model, type, chosen.route) ? nameOfField({ model, type }, chosen) : null}
      hint="a field of its own"
      isWrong={isWrong}
      choices={[...choices, { key: LEAVE_OUT, name: 'leave this out' }]}
      onChoose={(key) => {
        const { [role]: _left, ...others } = draft.own;
        onChange(key === LEAVE_OUT ? others : { ...others, [role]: readFrom(key) });
      }}
    />
  );
}

/** What can still be added to the sentence: folded until it is wanted. */
export function MoreMenu({
  draft,
  onChange,
}: {
  readonly draft: RuleDraft;
  readonly onChange: (draft: RuleDraft) => void;
}) {
  if (!draft.type || !draft.aggregate) return null;
  const isCount = aggregateEntry(draft.aggregate)?.kinds.length === 0;
  const roles = ROLES.filter(({ role }) => draft.own[role] === undefined && !(isCount && role === 'adds'));
  return (
    <MenuPart
      label="Add to the sentence"
      text="more …"
      hint=""
      choices={[
        { key: 'also', name: 'further records', note: 'brought together with these' },
        ...roles.map(({ role, name, note }) => ({ key: role, name, note })),
      ]}
      onChoose={(key) =>
        onChange(
          key === 'also'
            ? { ...draft, also: [...draft.also, NEW_SOURCE] }
            : { ...draft, own: { ...draft.own, [key]: null } },
        )
      }
    />
  );
}
