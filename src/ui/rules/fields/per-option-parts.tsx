import type { KeeperView } from '@/core/api';
import { type Model, typeIn } from '@/core/model';
import { targetsWithWhy } from '@/core/rules';
import { KIND_NAMES, type Option, type ValueType } from '@/core/values';
import { fieldChoices, fieldsWithWhy, LEAVE_OUT, nameOfField, readFrom } from '@/ui/expression/field-choices';
import { MenuPart } from '@/ui/expression/part';
import { optionsRead, type OptionDraft, type PerOptionDraft } from '@/ui/rules/drafts/per-option-draft';
import { membersOf, type RuleDraft } from '@/ui/rules/drafts/roll-up-draft';
import { TargetMenu } from './target-menu';

interface PerOptionPartsProps {
  readonly model: Model;
  readonly draft: RuleDraft;
  readonly perOption: PerOptionDraft;
  readonly result: ValueType | null;
  /** Whether something is wrong with a further field, or with the whole where no number is given. */
  readonly isWrong: (at?: number) => boolean;
  readonly keptBy: (field: string) => KeeperView | undefined;
  /** With the model as it is then, where a field was made. */
  readonly onChange: (perOption: PerOptionDraft | null, model?: Model) => void;
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
  const put = (at: number, next: OptionDraft | null, within?: Model) =>
    onChange(
      { ...perOption, others: others.flatMap((one, index) => (index === at ? (next ?? []) : one)) },
      within,
    );
  const add = (keys: readonly string[]) =>
    onChange({
      ...perOption,
      others: [...others, ...keys.map((key) => ({ option: optionOf(key), target: null }))],
    });
  const nameOf = (one: string | null | undefined) =>
    one === undefined ? null : (options?.find(({ key }) => key === one)?.name ?? 'empty');
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
      {others.map((one, at) => {
        const kept = [draft.target, ...others.map(({ target }) => target)];
        const choices = fields.map((offer) =>
          offer.why === null && offer.field.key !== one.target && kept.includes(offer.field.key)
            ? { ...offer, why: 'kept by this rule already' }
            : offer,
        );
        return (
          <span key={keyOf(one.option ?? null)}>
            ;{' '}
            <TargetMenu
              {...{ model, result }}
              label={`Field of ${nameOf(one.option) ?? 'an option'}`}
              isWrong={isWrong(at)}
              proposed={nameOf(one.option) ?? ''}
              type={draft.type ? typeIn(model, draft.type) : null}
              text={(draft.type && one.target && model.field(draft.type, one.target)?.name) || null}
              choices={fieldsWithWhy(choices)}
              onChoose={(target, within) => put(at, { ...one, target }, within)}
            />{' '}
            of those where it is{' '}
            <MenuPart
              label="Further option"
              text={nameOf(one.option)}
              hint="an option"
              choices={[...open, { key: LEAVE_OUT, name: 'leave this out', isAside: true }]}
              onChoose={(key) => put(at, key === LEAVE_OUT ? null : { ...one, option: optionOf(key) })}
            />
          </span>
        );
      })}
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
    </>
  );
}

const optionsOf = (options: readonly Option[]) => [
  ...options.map(({ key, name }) => ({ key, name })),
  { key: EMPTY, name: 'empty' },
];
