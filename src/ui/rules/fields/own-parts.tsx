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
const PER_OPTION = { key: 'perOption', name: 'a field for each option', note: 'as one for each stage' };
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
  const isApart = draft.perOption !== null;
  const isAlone =
    draft.also.length === 0 &&
    Object.keys(draft.own).length === 0 &&
    !draft.map &&
    draft.together.length === 0;
  const roles = ROLES.filter(({ role }) => draft.own[role] === undefined && !(isCount && role === 'adds'));
  return (
    <MenuPart
      label="Add to the sentence"
      text="more …"
      hint=""
      choices={[
        ...(isApart ? [] : [{ key: 'also', name: 'further records', note: 'brought together with these' }]),
        ...(isApart ? [] : roles.map(({ role, name, note }) => ({ key: role, name, note }))),
        ...(isOrdered && !draft.map && !isApart ? [TOGETHER] : []),
        ...(isAlone && !isApart ? [PER_OPTION] : []),
        ...(draft.limits === null && isLimited ? [LIMITS] : []),
        ...(draft.map === null && draft.together.length === 0 && !isApart ? [MAP] : []),
      ]}
      onChoose={(key) => onChange(withMore(model, draft, key))}
    />
  );
}

/** A draft with what was added to its sentence, which is chosen there next. */
function withMore(model: Model, draft: RuleDraft, key: string): RuleDraft {
  switch (key) {
    case 'also':
      return { ...draft, also: [...draft.also, NEW_SOURCE] };
    case TOGETHER.key:
      return { ...draft, together: [...draft.together, { target: null, values: [] }] };
    case PER_OPTION.key:
      return { ...draft, perOption: { by: null, option: undefined, others: [] } };
    case LIMITS.key:
      return { ...draft, limits: {} };
    case MAP.key:
      return changePart(model, draft, 'map', newMap(resultOf(model, draft)));
    default:
      return { ...draft, own: { ...draft.own, [key]: null } };
  }
}
