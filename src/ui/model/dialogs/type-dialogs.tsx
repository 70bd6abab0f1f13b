'use client';

import { pluralOf } from '@/ui/kit/values/plurals';
import { NameInput } from './name-input';
import { sameData, foundIn, type Option, type ValueType } from '@/core/values';
import {
  type Field,
  type ModelChange,
  type OptionList,
  type RateFields,
  type RecordType,
  keyOf,
} from '@/core/model';
import { Checkbox, Input, Select } from 'antd';
import { Fragment, useId, useState } from 'react';
import { ChangeDialog } from './change-dialog';
import { type FieldDraft } from './option-rows';
import modelStyle from '@/ui/model/model.module.css';

interface Model {
  readonly types: readonly RecordType[];
  readonly lists: readonly OptionList[];
  readonly version: number;
}

export interface DialogProps {
  readonly model: Model;
  readonly onClose: () => void;
}

/** New options get a key of their name; those that were there keep theirs, whatever they are called now. */
export function keyed(options: readonly Option[], had: readonly Option[]): readonly Option[] {
  const taken = new Set(had.map(({ key }) => key));
  return options.map((option) => {
    if (had.some(({ key }) => key === option.key)) return { ...option, name: option.name.trim() };
    const key = keyOf(option.name, taken);
    taken.add(key);
    return { key, name: option.name.trim() };
  });
}

const optionsOf = (type: ValueType | undefined): readonly Option[] =>
  type?.kind === 'choice' || type?.kind === 'choices' ? type.options : [];

/** The field as it is sent: names trimmed, what is empty left out, what its kind doesn't have left out. */
export function finished({ field }: FieldDraft, key: string, before: Field | null): Field {
  const { name, type, required, unique, help, otherEnd, whenParentGoes } = field;
  const own = type.kind === 'choice' || type.kind === 'choices';
  const value = field.default === '' ? null : (field.default ?? null);
  return {
    ...{ key, name: name.trim() },
    type:
      own && type.list === undefined
        ? { ...type, options: keyed(type.options, optionsOf(before?.type)) }
        : type,
    ...(required ? { required } : {}),
    ...(unique ? { unique } : {}),
    ...(value === null ? {} : { default: value }),
    ...(help?.trim() ? { help: help.trim() } : {}),
    ...(type.kind === 'link'
      ? { otherEnd: otherEnd?.trim() ?? '', whenParentGoes: whenParentGoes ?? 'refuse' }
      : {}),
  };
}

/** Makes a type, named by a title; or changes what one is called. */
export function TypeDialog({
  model,
  before,
  onClose,
  onMade,
}: DialogProps & { before: RecordType | null; onMade?: (key: string) => void }) {
  const ids = useId();
  const [name, setName] = useState(before?.name ?? '');
  const [plural, setPlural] = useState<string | null>(before?.plural ?? null);
  const [title, setTitle] = useState(before?.title ?? 'Title');
  const [joins, setJoins] = useState<readonly string[] | null>(null);
  /** What the records of a bridge are called from either end, where it isn't what several of them are called. */
  const [ends, setEnds] = useState<Readonly<Record<string, string>>>({});
  const key = before?.key ?? keyOf(name, new Set(model.types.map((type) => type.key)));
  const shownPlural = plural ?? pluralOf(name);
  const names = { name: name.trim(), plural: shownPlural.trim() };
  const [rates, setRates] = useState<RateFields | null>(before?.rates ?? null);
  const changes = before
    ? changed(before, { ...names, title, rates })
    : made({ ...names, key, title, joins, ends, types: model.types });
  const isReady = names.name !== '' && (joins === null || joins.length === 2);
  const texts = before?.fields.filter((field) => field.type.kind === 'text' && field.required) ?? [];
  return (
    <ChangeDialog
      title={before ? before.name : 'Add a type of record'}
      changes={isReady ? changes : null}
      version={model.version}
      apply={before ? 'Change the type' : 'Add the type'}
      done={before ? `${names.name} is changed.` : `${names.name} is added.`}
      onClose={onClose}
      onDone={() => onMade?.(key)}
    >
      <div className={modelStyle.modelForm}>
        <NameInput value={name} placeholder="one of them: Loan" onChange={setName} />
        <label htmlFor={`${ids}-plural`}>Name of several</label>
        <Input
          id={`${ids}-plural`}
          maxLength={80}
          value={shownPlural}
          placeholder="Loans"
          onChange={(event) => setPlural(event.target.value)}
        />
        <label htmlFor={`${ids}-title`}>Records are named by</label>
        {before ? (
          <Select
            id={`${ids}-title`}
            value={title}
            options={texts.map((field) => ({ value: field.key, label: field.name }))}
            onChange={setTitle}
          />
        ) : (
          <Input
            id={`${ids}-title`}
            maxLength={80}
            value={title}
            onChange={(event) => setTitle(event.target.value)}
          />
        )}
        {before ? null : (
          <>
            <span />
            <Checkbox
              checked={joins !== null}
              onChange={(event) => setJoins(event.target.checked ? [] : null)}
            >
              A bridge: each record joins two others
            </Checkbox>
          </>
        )}
        {before ? <RatesPart {...{ ids, type: before, rates }} onChange={setRates} /> : null}
        {joins === null ? null : (
          <>
            <label htmlFor={`${ids}-joins`}>Joins</label>
            <Select
              id={`${ids}-joins`}
              mode="multiple"
              maxCount={2}
              value={[...joins]}
              placeholder="two types"
              options={model.types.map((type) => ({ value: type.key, label: type.name }))}
              onChange={(next: string[]) => setJoins(next)}
            />
            {joins.map((target) => {
              const joined = foundIn(model.types, (type) => type.key === target).name;
              return (
                <Fragment key={target}>
                  <label htmlFor={`${ids}-end-${target}`}>{`On each ${joined}, they are called`}</label>
                  <Input
                    id={`${ids}-end-${target}`}
                    maxLength={80}
                    value={ends[target] ?? shownPlural}
                    onChange={(event) => setEnds({ ...ends, [target]: event.target.value })}
                  />
                </Fragment>
              );
            })}
          </>
        )}
      </div>
    </ChangeDialog>
  );
}

const PARTS = [
  ['pair', 'Pair', 'text'],
  ['day', 'Day', 'date'],
  ['rate', 'Rate', 'number'],
] as const;

/** Whether the records of a type are rates of currencies, and which fields these are read from. */
function RatesPart({
  ids,
  type,
  rates,
  onChange,
}: {
  readonly ids: string;
  readonly type: RecordType;
  readonly rates: RateFields | null;
  readonly onChange: (rates: RateFields | null) => void;
}) {
  const of = (kind: string) => type.fields.filter((field) => field.type.kind === kind);
  const isPossible = PARTS.every(([, , kind]) => of(kind).length > 0);
  const first = (kind: string) => of(kind)[0]?.key ?? '';
  return (
    <>
      <span />
      <Checkbox
        checked={rates !== null}
        disabled={!isPossible}
        onChange={(event) =>
          onChange(
            event.target.checked ? { pair: first('text'), day: first('date'), rate: first('number') } : null,
          )
        }
      >
        Its records are rates of currencies
        {isPossible ? null : <span className="quiet"> (it needs a text, a date and a number)</span>}
      </Checkbox>
      {rates
        ? PARTS.map(([part, name, kind]) => (
            <Fragment key={part}>
              <label htmlFor={`${ids}-${part}`}>{name}</label>
              <Select
                id={`${ids}-${part}`}
                value={rates[part]}
                options={of(kind).map((field) => ({ value: field.key, label: field.name }))}
                onChange={(key: string) => onChange({ ...rates, [part]: key })}
              />
            </Fragment>
          ))
        : null}
    </>
  );
}

function changed(
  before: RecordType,
  to: Pick<RecordType, 'name' | 'plural' | 'title'> & { readonly rates: RateFields | null },
): ModelChange[] | null {
  const isSame =
    before.name === to.name &&
    before.plural === to.plural &&
    before.title === to.title &&
    sameData(before.rates ?? null, to.rates);
  return isSame ? null : [{ kind: 'changeType', key: before.key, to }];
}

interface Made {
  readonly key: string;
  readonly name: string;
  readonly plural: string;
  readonly title: string;
  readonly ends: Readonly<Record<string, string>>;
  readonly joins: readonly string[] | null;
  readonly types: readonly RecordType[];
}

function made({ key, name, plural, title, joins, ends, types }: Made): ModelChange[] {
  const titleKey = keyOf(title, new Set());
  const links = (joins ?? []).map((target): Field => {
    const parent = foundIn(types, (type) => type.key === target);
    return {
      ...{ key: target, name: parent.name, type: { kind: 'link', target }, required: true },
      ...{ otherEnd: ends[target]?.trim() || plural, whenParentGoes: 'delete' },
    };
  });
  const type: RecordType = {
    ...{ key, name, plural, title: titleKey, ...(joins ? { bridge: true } : {}) },
    fields: [{ key: titleKey, name: title.trim(), type: { kind: 'text' }, required: true }, ...links],
  };
  return [{ kind: 'addType', type }];
}

export function RemoveTypeDialog({
  model,
  type,
  onClose,
  onGone,
}: DialogProps & { type: RecordType; onGone: () => void }) {
  return (
    <ChangeDialog
      title={`Remove the type ${type.name}?`}
      changes={[{ kind: 'removeType', key: type.key }]}
      version={model.version}
      apply="Remove it"
      isDanger
      done={`${type.name} is removed.`}
      onClose={onClose}
      onDone={onGone}
    />
  );
}
