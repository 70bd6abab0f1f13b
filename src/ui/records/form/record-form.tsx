'use client';

import { type Field, type Model, openLinkOf, typeIn } from '@/core/model';
import { certain, isUnread, parseValue, type WireValue } from '@/core/values';
import { type WireRecord } from '@/core/verify';
import { type KeeperView, type ModelView, type RecordView } from '@/core/api';
import { Button } from 'antd';
import { useState } from 'react';
import { ApiProblem } from '@/ui/api/client';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { ValueInput } from '@/ui/kit/values/value-input';
import { sameWire } from '@/ui/kit/values/same-wire';
import { useSaveKey } from '@/ui/kit/hooks/use-save-key';
import { useUnsaved } from '@/ui/kit/unsaved';
import { isFilledByRule } from '@/ui/kit/live-keeper';
import { ConflictDialog } from './conflict-dialog';
import { KeptField } from './kept-field';
import { ManyDialog } from '@/ui/records/list/many-dialog';
import { OpenLinkField } from './open-link-field';
import { RuleMark } from './rule-mark';
import { sectionsOf } from './sections';
import { wordsFor } from '@/ui/records/words';
import { type Entered, useSave } from './use-save';
import { clsx } from 'clsx';
import formStyle from './form.module.css';
import kitStyle from '@/ui/kit/kit.module.css';
import recordsStyle from '@/ui/records/records.module.css';
import style from './record-form.module.css';
import { MayButton } from '@/ui/kit/may-button';

export interface RecordFormProps {
  readonly model: Model;
  readonly view: ModelView;
  readonly found: RecordView;
  /** Opens a kept field's value. */
  readonly onOpen: (field: string) => void;
}

/**
 * The fields of a record. What is entered stays until it is saved or given up, also when the server refuses it; it is held
 * against the record as it was when the first field was entered, so that nobody's change is overwritten unseen.
 */
export function RecordForm({ model, view, found, onOpen }: RecordFormProps) {
  const { record, names, asOf, claimed } = found;
  const { fields } = typeIn(model, record.type);
  const [entered, setEntered] = useState<Entered>({});
  const [base, setBase] = useState<WireRecord | null>(null);
  const [conflict, setConflict] = useState<RecordView | null>(null);
  const seen = base ?? record;
  const changed = fields.filter(({ key }) => key in entered && !sameWire(entered[key], seen.values[key]));
  const reset = () => {
    setEntered({});
    setBase(null);
  };
  useUnsaved(changed.length > 0 ? `Changes of ${changed.map(({ name }) => name).join(', ')}` : null);
  const saving = useSave(seen, reset, setConflict);
  const values = Object.fromEntries(changed.map(({ key }) => [key, entered[key] ?? null]));
  const isInvalid = changed.some(
    (field) => problemOf(view, record.type, field, entered[field.key] ?? null).length > 0,
  );
  const canSave = changed.length > 0 && !isInvalid && !saving.isBusy;
  useSaveKey(canSave ? () => void saving.save(values) : null);
  return (
    <form
      className={clsx('sheet', recordsStyle.recordForm)}
      aria-label="Fields"
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        if (changed.length > 0 && !isInvalid) void saving.save(values);
      }}
    >
      <RecordFields
        {...{ model, view, names, asOf, claimed, onOpen, entered, changed }}
        record={seen}
        problem={saving.problem}
        onEnter={(next) => {
          setBase(seen);
          setEntered({ ...entered, ...next });
        }}
      />
      <div className={recordsStyle.recordSave}>
        <Unplaced model={model} type={record.type} problem={saving.problem} />
        <span className="quiet">
          {changed.length === 0
            ? 'Nothing is changed.'
            : `${changed.map(({ name }) => name).join(', ')} changed, not saved yet.`}
        </span>
        <Button disabled={changed.length === 0} onClick={reset}>
          Give up changes
        </Button>
        <MayButton
          right="edit"
          type="primary"
          htmlType="submit"
          disabled={changed.length === 0 || isInvalid}
          loading={saving.isBusy}
        >
          Save
        </MayButton>
      </div>
      {saving.many ? (
        <ManyDialog
          message={saving.many.message}
          isBusy={saving.isBusy}
          onClose={saving.goBack}
          onChosen={(when) => void saving.save(certain(saving.many).values, when)}
        />
      ) : null}
      {conflict ? (
        <ConflictDialog
          {...{ model, names, entered: values, conflict }}
          base={seen}
          onClose={() => setConflict(null)}
          onChosen={(chosen) => {
            setConflict(null);
            setBase(conflict.record);
            setEntered(chosen);
            saving.clear();
          }}
        />
      ) : null}
    </form>
  );
}

interface FieldsProps {
  readonly model: Model;
  readonly view: ModelView;
  readonly record: WireRecord;
  readonly names: Readonly<Record<string, string>>;
  /** Left out for a record that isn't there yet. */
  readonly asOf?: RecordView['asOf'];
  readonly claimed?: RecordView['claimed'];
  readonly entered: Entered;
  readonly changed: readonly Field[];
  readonly problem: Error | null;
  readonly onEnter: (values: Entered) => void;
  /** Left out for a record that isn't there yet: what rules keep on it comes with the save. */
  readonly onOpen?: (field: string) => void;
}

/** The fields themselves: those that people enter, and those that rules keep. */
export function RecordFields(props: FieldsProps) {
  const { model, view, record, names, asOf, claimed, entered, changed, problem, onEnter, onOpen } = props;
  // What can't be read its input tells itself.
  const problems = new Map(
    changed
      .filter((field) => !isUnread(entered[field.key]))
      .flatMap((field) => problemOf(view, record.type, field, entered[field.key] ?? null)),
  );
  for (const { place, message } of problem instanceof ApiProblem ? problem.errors : [])
    if (place) problems.set(place, message);
  const values = { ...record.values, ...entered };
  return (
    <div className={style.recordSections}>
      {sectionsOf(model, record.type, values).map(({ name, fields }) => (
        <fieldset key={name} className={style.recordSection} aria-label={name || 'Fields'}>
          {name ? <legend>{name}</legend> : null}
          <div className={style.recordFields}>
            {fields.map((field) => {
              const open = openLinkOf(typeIn(model, record.type), field.key);
              if (open) {
                const isFirst = fields.find(({ key }) => open.links.includes(key)) === field;
                const wrong = [open.key, ...open.links].find((key) => problems.has(key));
                return isFirst ? (
                  <OpenLinkField
                    key={open.key}
                    {...{ model, open, values, names, onEnter }}
                    type={record.type}
                    required={open.required ? requiredWords(open.links, view, record.type) : null}
                    problem={wrong === undefined ? undefined : problems.get(wrong)}
                  />
                ) : null;
              }
              if (field.type.kind === 'serial')
                return (
                  <div key={field.key} className={formStyle.recordField}>
                    <span className={formStyle.recordLabel}>{field.name}</span>
                    <span className={style.givenValue}>
                      {record.id ? wordsFor(field, record.values[field.key], names) : 'given when saved'}
                    </span>
                    {field.help ? <p className={formStyle.fieldHelp}>{field.help}</p> : null}
                  </div>
                );
              const keepers = view.keepers.filter(
                ({ type, field: key }) => type === record.type && key === field.key,
              );
              const live = keepers.find(({ rule, isReacting }) => rule.state === 'live' && !isReacting);
              if (live && (!live.isInStep || claimed?.includes(field.key))) {
                return onOpen ? (
                  <KeptField
                    key={field.key}
                    {...{ model, field, keeper: live, record, names }}
                    asOf={asOf?.[field.key] ?? null}
                    onOpen={() => onOpen(field.key)}
                  />
                ) : null;
              }
              const value = field.key in entered ? entered[field.key]! : (record.values[field.key] ?? null);
              return (
                <div
                  key={field.key}
                  className={
                    field.type.kind === 'longText'
                      ? clsx(formStyle.recordField, style.recordWide)
                      : formStyle.recordField
                  }
                >
                  <label htmlFor={`field-${field.key}`}>
                    {field.name}
                    {field.required ? (
                      <span className="quiet">{requiredWords([field.key], view, record.type)}</span>
                    ) : null}
                  </label>
                  <Marks {...{ field, keepers, onOpen }} />
                  <ValueInput
                    id={`field-${field.key}`}
                    label={field.name}
                    type={field.type}
                    value={value}
                    title={typeof value === 'string' ? names[value] : undefined}
                    isWrong={problems.has(field.key)}
                    onChange={(next) => onEnter({ [field.key]: next })}
                  />
                  {problems.has(field.key) ? (
                    <p role="alert" className={formStyle.fieldProblem}>
                      {problems.get(field.key)}
                    </p>
                  ) : null}
                  <Standing keepers={keepers} />
                  {field.help ? <p className={formStyle.fieldHelp}>{field.help}</p> : null}
                </div>
              );
            })}
          </div>
        </fieldset>
      ))}
    </div>
  );
}

/** Beside the name of what is required: also where a rule fills it, so that it may be left empty. */
const requiredWords = (links: readonly string[], view: ModelView, type: string): string =>
  links.some((link) => isFilledByRule(view, type, link))
    ? ' · required, filled by a rule where left empty'
    : ' · required';

/** A problem that no field shows. */
export function Unplaced({ model, type, problem }: { model: Model; type: string; problem: Error | null }) {
  const isPlaced =
    problem instanceof ApiProblem &&
    problem.errors.some(
      ({ place }) =>
        place && (model.field(type, place) ?? model.type(type)?.openLinks?.find(({ key }) => key === place)),
    );
  return problem && !isPlaced ? <ProblemNotice error={problem} /> : null;
}

/** The field's own problem, as an entry of a map; empty when the value fits. */
export function problemOf(view: ModelView, type: string, field: Field, value: WireValue): [string, string][] {
  const parsed = parseValue(field.type, value);
  if (!parsed.ok) return [[field.key, parsed.problem.message]];
  return field.required && parsed.value === null && !isFilledByRule(view, type, field.key)
    ? [[field.key, `${field.name} is required. Enter a value.`]]
    : [];
}

/** Beside the name of a field that people enter, though rules may write it too: which, and when. */
function Marks({
  field,
  keepers,
  onOpen,
}: {
  readonly field: Field;
  readonly keepers: readonly KeeperView[];
  readonly onOpen: ((field: string) => void) | undefined;
}) {
  // What made the record stands beside the form.
  return keepers
    .filter(({ rule }) => rule.kind !== 'create')
    .map((keeper) => (
      <RuleMark key={keeper.rule.id} field={field.name} rule={keeper.rule} does={doesWords(keeper)}>
        {onOpen && keeper.rule.state === 'live' && keeper.rule.kind === 'rollUp' ? (
          <button
            type="button"
            className={clsx('plain', kitStyle.opens)}
            aria-label={`Open what ${keeper.rule.name} looks at`}
            onClick={() => onOpen(field.key)}
          >
            Why?
          </button>
        ) : null}
      </RuleMark>
    ));
}

function doesWords({ rule, isReacting, isInStep }: KeeperView): string {
  if (rule.state === 'paused')
    return isReacting ? 'is paused: it changes nothing.' : 'is paused: this value stands still.';
  if (isInStep) return 'keeps this in step elsewhere, not on this record.';
  return rule.kind === 'cascade' ? 'may cascade a value to it.' : 'may change this.';
}

/** That a value stands still has to be seen without being asked for. */
const Standing = ({ keepers }: { readonly keepers: readonly KeeperView[] }) =>
  keepers
    .filter(({ rule, isReacting }) => rule.state === 'paused' && !isReacting)
    .map(({ rule }) => (
      <p key={rule.id} className={formStyle.fieldHelp}>
        “{rule.name}” is paused: this value stands still.
      </p>
    ));
