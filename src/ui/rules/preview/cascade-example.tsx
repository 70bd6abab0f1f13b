'use client';

import { firstIn, type WireValue, writeCount } from '@/core/values';
import { type Model, typeIn } from '@/core/model';
import type { RuleDefinition } from '@/core/rules';
import type { CascadeView, RecipientView } from '@/core/verify';
import { Button } from 'antd';
import { ValueInput } from '@/ui/kit/values/value-input';
import { ValuePair } from '@/ui/kit/values/value-pair';
import { CountsGlyph, LeftOutGlyph } from '@/ui/theme/glyphs';
import intakeStyle from '@/ui/intake/intake.module.css';
import kitStyle from '@/ui/kit/kit.module.css';
import previewStyle from './preview.module.css';
import style from './cascade-example.module.css';

export interface CascadeExampleProps {
  readonly model: Model;
  readonly definition: RuleDefinition;
  readonly view: CascadeView;
  /** Values that the sample record is given in the example; `null` where one that fits is tried. */
  readonly staged: Readonly<Record<string, WireValue>> | null;
  readonly nameOf: (id: string) => string | undefined;
  readonly onStage: (staged: Readonly<Record<string, WireValue>> | null) => void;
}

/** Who takes what from the sample record, once it changes so that the rule acts; and who doesn't, and why. */
export function CascadeExample({ model, definition, view, staged, nameOf, onStage }: CascadeExampleProps) {
  if (definition.kind !== 'cascade') return null;
  const { moment } = definition;
  const taking = view.recipients.filter(({ standing }) => standing === 'takes').length;
  const watched = view.watched.flatMap((key) => model.field(definition.type, key) ?? []);
  return (
    <>
      {watched.length > 0 ? (
        <div className={style.cascadeStaged} role="group" aria-label="What is tried">
          <span className="quiet">If, on {view.record.title},</span>
          {watched.map((field) => {
            const shown = view.staged.find((one) => one.field === field.key);
            const value = staged && field.key in staged ? staged[field.key]! : (shown?.after.wire ?? null);
            return (
              <label key={field.key}>
                {field.name} {shown ? <span className="was">{shown.before.text}</span> : null} became
                <ValueInput
                  type={field.type}
                  value={value}
                  title={typeof value === 'string' ? nameOf(value) : undefined}
                  label={`${field.name} in the example`}
                  onChange={(next) => onStage({ ...staged, [field.key]: next })}
                />
              </label>
            );
          })}
          {staged ? (
            <Button size="small" type="text" onClick={() => onStage(null)}>
              Try one that fits
            </Button>
          ) : null}
        </div>
      ) : null}
      <div className={previewStyle.workedResult} role="status">
        <div>
          <div className="quiet">
            {moment === 'inStep'
              ? 'Would be brought in step'
              : moment === 'atCreation'
                ? 'Would start with it'
                : 'Would take it'}
          </div>
          <div className={kitStyle.workedNumber}>
            {writeCount(taking)} of {writeCount(view.recipients.length)}
          </div>
        </div>
        <div className={previewStyle.workedVerdict}>
          <div className="quiet">
            {moment === 'atCreation' && view.made
              ? `A record is made for the example: ${view.made}.`
              : `of ${view.recipientsName}`}
          </div>
        </div>
      </div>
      {view.refusal ? <p className="finding">{view.refusal}</p> : null}
      {view.recipients.length === 0 ? (
        <div className="nothing">
          <strong>Nothing takes it here</strong>“{view.record.title}” has none of {view.recipientsName}.
          Choose another sample.
        </div>
      ) : (
        <RecipientTable
          recipients={view.recipients}
          typeName={typeIn(model, firstIn(view.recipients).type).plural}
        />
      )}
    </>
  );
}

const STANDINGS: Record<RecipientView['standing'], string> = {
  takes: 'takes it',
  same: 'has it already',
  leftOut: 'left out',
  overruled: 'another comes first by the order',
  stays: 'stays as it is',
};

const MOST_SHOWN = 60;

function RecipientTable({
  recipients,
  typeName,
}: {
  recipients: readonly RecipientView[];
  typeName: string;
}) {
  const fields = firstIn(recipients).values;
  return (
    <table className={kitStyle.members}>
      <thead>
        <tr>
          <th scope="col">{typeName}</th>
          {fields.map(({ field, fieldName }) => (
            <th key={field} scope="col">
              {fieldName}
            </th>
          ))}
          <th scope="col">Takes it or not</th>
        </tr>
      </thead>
      <tbody>
        {recipients.slice(0, MOST_SHOWN).map((recipient) => {
          const Glyph = recipient.standing === 'takes' ? CountsGlyph : LeftOutGlyph;
          return (
            <tr
              key={recipient.id}
              className={recipient.standing === 'takes' ? undefined : intakeStyle.leftOut}
            >
              <td>{recipient.title}</td>
              {recipient.values.map(({ field, before, after }) => (
                <td key={field}>
                  {before.text === after.text ? after.text : <ValuePair before={before} after={after} />}
                </td>
              ))}
              <td>
                <span className={kitStyle.standing}>
                  <Glyph size={16} />
                  <span>
                    {STANDINGS[recipient.standing]}
                    {recipient.reasons.map(({ test, found }) => (
                      <span key={test} className={kitStyle.reason}>
                        fails “{test}”: here {found}
                      </span>
                    ))}
                  </span>
                </span>
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
