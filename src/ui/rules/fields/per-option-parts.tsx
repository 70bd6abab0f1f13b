import type { KeeperView } from '@/core/api';
import { type Model, type RecordType, typeIn } from '@/core/model';
import { targetsWithWhy } from '@/core/rules';
import { KIND_NAMES, type Option, type ValueType } from '@/core/values';
import { fieldChoices, fieldsWithWhy, LEAVE_OUT, nameOfField, readFrom } from '@/ui/expression/field-choices';
import type { Choice } from '@/ui/expression/choices';
import { MenuPart } from '@/ui/expression/part';
import { optionsRead, type OptionDraft, type PerOptionDraft } from '@/ui/rules/drafts/per-option-draft';
import { membersOf, type RuleDraft } from '@/ui/rules/drafts/roll-up-draft';
import { MakeFields, nameForOption } from './make-fields';
import { TargetMenu } from './target-menu';

interface PerOptionPartsProps {
  readonly model: Model;
  readonly draft: RuleDraft;
  readonly perOption: PerOptionDraft;
  readonly result: ValueType | null;
  /** Whether something is wrong with a further field, or with the whole where no number is given. */
  readonly isWrong: (at?: number) => boolean;
  readonly keptBy: (field: string) => KeeperView | undefined;
  readonly onChange: (perOption: PerOptionDraft | null) => void;
}

/** The choices of this part that aren't options: no key of an option has a blank. */
const EMPTY = 'is empty';
const ALL = 'all of them';

const keyOf = (option: string | null): string => option ?? EMPTY;
const optionOf = (key: string): string | null => (key === EMPTY ? null : key);

/** A field for each option: by which choice the records are told apart, and which field is kept of each option's. */
export function PerOptionParts(props: PerOptionPartsProps) {
  const { model, draft, perOption, result, isWrong, keptBy, onChange } = props;
  const { by, option, others } = perOption;
  const members = membersOf(model, draft.type, draft.route);
  const scope = members && { model, type: members.type };
  const options = optionsRead(model, members?.type ?? null, by);
  const taken = [option, ...others.map((one) => one.option)];
  const open = optionsOf(options ?? []).filter(({ key }) => !taken.includes(optionOf(key)));
  const put = (at: number, next: OptionDraft | null) =>
    onChange({
      ...perOption,
      others: others.flatMap((one, index) => (index === at ? (next ?? []) : one)),
    });
  const add = (keys: readonly string[]) =>
    onChange({
      ...perOption,
      others: [...others, ...keys.map((key) => ({ option: optionOf(key), target: null }))],
    });
  const nameOf = (one: string | null | undefined) =>
    one === undefined ? null : (options?.find(({ key }) => key === one)?.name ?? 'empty');
  const type = draft.type ? typeIn(model, draft.type) : null;
  const field = type?.fields.find(({ key }) => key === draft.target);
  const proposed = (one: string | null | undefined) =>
    nameForOption(
      field?.name ?? '',
      nameOf(option) ?? '',
      nameOf(one) ?? '',
      type?.fields.map(({ name }) => name) ?? [],
    );
  const kept = [draft.target, ...others.map(({ target }) => target)];
  const missing = others.filter((one) => one.target === null && one.option !== undefined);
  const fields = draft.type
    ? targetsWithWhy(model, draft.type, result, (field) => keptBy(field)?.rule.name)
    : [];
  return (
    <>
      Of those whose{' '}
      <MenuPart
        label="Choice by which they are told apart"
        text={scope && by && options ? nameOfField(scope, by) : null}
        hint="a choice"
        isWrong={isWrong()}
        choices={[
          ...(scope ? fieldChoices(scope, ({ type }) => type.kind === 'choice', KIND_NAMES) : []),
          { key: LEAVE_OUT, name: 'one field for all', isAside: true },
        ]}
        nothing="Choose the records first, after “over its”."
        onChoose={(key) =>
          onChange(key === LEAVE_OUT ? null : { by: readFrom(key), option: undefined, others: [] })
        }
      />{' '}
      is{' '}
      <MenuPart
        label="Option of the field that is kept"
        text={options ? nameOf(option) : null}
        hint="an option"
        choices={open}
        nothing="Choose the choice first."
        onChoose={(key) => onChange({ ...perOption, option: optionOf(key) })}
      />
      {others.map((one, at) => (
        <FurtherOption
          key={keyOf(one.option ?? null)}
          {...{ model, result, type, one, open }}
          name={nameOf(one.option)}
          isWrong={isWrong(at)}
          proposed={proposed(one.option)}
          choices={fieldsWithWhy(
            fields.map((offer) =>
              offer.why === null && offer.field.key !== one.target && kept.includes(offer.field.key)
                ? { ...offer, why: 'kept by this rule already' }
                : offer,
            ),
          )}
          onChange={(next) => put(at, next)}
        />
      ))}
      {options && option !== undefined && open.length > 0 ? (
        <>
          {'; '}
          <MenuPart
            label="Add an option"
            text="another option …"
            hint=""
            choices={[
              ...open,
              ...(open.length > 2 ? [{ key: ALL, name: 'all of them', isAside: true }] : []),
            ]}
            onChoose={(key) =>
              add(key === ALL ? open.flatMap((one) => (one.key === EMPTY ? [] : one.key)) : [key])
            }
          />
        </>
      ) : null}
      .{' '}
      {type && field && missing.length > 0 ? (
        <>
          <MakeFields
            {...{ type }}
            names={missing.map((one) => proposed(one.option))}
            kind={field.type}
            onMade={(keys) =>
              onChange({
                ...perOption,
                others: others.map((one) => {
                  const at = missing.indexOf(one);
                  return at < 0 ? one : { ...one, target: keys[at] ?? null };
                }),
              })
            }
          />{' '}
        </>
      ) : null}
    </>
  );
}

interface FurtherOptionProps {
  readonly model: Model;
  readonly type: RecordType | null;
  readonly result: ValueType | null;
  readonly one: OptionDraft;
  /** What the option is called, and a new field of it would be. */
  readonly name: string | null;
  readonly proposed: string;
  readonly isWrong: boolean;
  readonly choices: readonly Choice[];
  readonly open: readonly Choice[];
  readonly onChange: (one: OptionDraft | null) => void;
}

/** A further option, with the field that is kept of its records. */
function FurtherOption({ type, one, name, open, onChange, ...menu }: FurtherOptionProps) {
  return (
    <span>
      ;{' '}
      <TargetMenu
        {...menu}
        label={`Field of ${name ?? 'an option'}`}
        type={type}
        text={type?.fields.find(({ key }) => key === one.target)?.name ?? null}
        onChoose={(target) => onChange({ ...one, target })}
      />{' '}
      of those where it is{' '}
      <MenuPart
        label="Further option"
        text={name}
        hint="an option"
        choices={[...open, { key: LEAVE_OUT, name: 'leave this out', isAside: true }]}
        onChoose={(key) => onChange(key === LEAVE_OUT ? null : { ...one, option: optionOf(key) })}
      />
    </span>
  );
}

const optionsOf = (options: readonly Option[]) => [
  ...options.map(({ key, name }) => ({ key, name })),
  { key: EMPTY, name: 'empty' },
];
