import { conversion, KIND_NAMES, placesOf, foundIn } from '@/core/values';
import { follow, type Model } from '@/core/model';
import { aggregateEntry, isValueOffered } from '@/core/rules';
import {
  changePart,
  NEW_SOURCE,
  newMap,
  type OwnDraft,
  resultOf,
  type RuleDraft,
} from '@/ui/rules/drafts/roll-up-draft';
import { fieldChoices, LEAVE_OUT, nameOfField, readFrom } from '@/ui/expression/field-choices';
import { MenuPart } from '@/ui/expression/part';

type Role = keyof OwnDraft;

const ROLES: readonly { readonly role: Role; readonly name: string; readonly note: string }[] = [
  { role: 'adds', name: 'its own value', note: 'is brought together with the others' },
  { role: 'standsIn', name: 'what stands in for them', note: 'its own value, where it is entered' },
  { role: 'whenNone', name: 'its own value when none count', note: 'in place of what stands then' },
];

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
  const goal = draft.map
    ? resultOf(model, draft)
    : type && target
      ? (model.field(type, target)?.type ?? null)
      : null;
  const choices = type
    ? fieldChoices(
        { model, type },
        (field, owner) => {
          if (owner === type && field.key === target) return false;
          if (role === 'adds') return aggregate !== null && isValueOffered(aggregate, field, false);
          return goal !== null && conversion(field.type, goal) !== null;
        },
        KIND_NAMES,
      )
    : [];
  return (
    <MenuPart
      label={foundIn(ROLES, (one) => one.role === role).name}
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

const TOGETHER = { key: 'together', name: 'another field of it', note: 'of the same record, kept beside' };
const LIMITS = { key: 'limits', name: 'limits', note: 'a result beyond them becomes the limit' };
const MAP = { key: 'map', name: 'a table of results', note: 'what is written for which result' };

/** What can still be added to the sentence: folded until it is wanted. */
export function MoreMenu({
  model,
  draft,
  onChange,
}: {
  readonly model: Model;
  readonly draft: RuleDraft;
  readonly onChange: (draft: RuleDraft) => void;
}) {
  if (!draft.type || !draft.aggregate) return null;
  const result = resultOf(model, draft);
  const isLimited = result !== null && placesOf(result) !== null;
  const isCount = aggregateEntry(draft.aggregate).kinds.length === 0;
  const isOrdered = aggregateEntry(draft.aggregate).isOrdered === true;
  const roles = ROLES.filter(({ role }) => draft.own[role] === undefined && !(isCount && role === 'adds'));
  return (
    <MenuPart
      label="Add to the sentence"
      text="more …"
      hint=""
      choices={[
        { key: 'also', name: 'further records', note: 'brought together with these' },
        ...roles.map(({ role, name, note }) => ({ key: role, name, note })),
        ...(isOrdered && !draft.map ? [TOGETHER] : []),
        ...(draft.limits === null && isLimited ? [LIMITS] : []),
        ...(draft.map === null && draft.together.length === 0 ? [MAP] : []),
      ]}
      onChoose={(key) =>
        onChange(
          key === 'also'
            ? { ...draft, also: [...draft.also, NEW_SOURCE] }
            : key === TOGETHER.key
              ? { ...draft, together: [...draft.together, { target: null, values: [] }] }
              : key === LIMITS.key
                ? { ...draft, limits: {} }
                : key === MAP.key
                  ? changePart(model, draft, 'map', newMap(result))
                  : { ...draft, own: { ...draft.own, [key]: null } },
        )
      }
    />
  );
}
