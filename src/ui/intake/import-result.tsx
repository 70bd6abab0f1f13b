'use client';

import { writeCount } from '@/core/values';
import type { RecordType } from '@/core/model';
import type { ImportEffect, ImportView } from '@/core/api';
import { Link } from '@/ui/kit/navigation';
import { ValuePair } from '@/ui/kit/values/value-pair';
import intakeStyle from './intake.module.css';
import style from './import-result.module.css';

/** What a file does, or would do: rows by what becomes of them, why some are refused, and the ripple. */
export function ImportResult({
  view,
  type,
  isOfList = false,
}: {
  view: ImportView;
  type: RecordType;
  /** Records of a list rather than rows of a file: they make none, and have no lines. */
  isOfList?: boolean;
}) {
  const { created, changed, same, refused, refusals, samples, effects } = view;
  return (
    <div className={intakeStyle.importResult}>
      <dl className={intakeStyle.importCounts}>
        {isOfList ? null : <Count name="made" of={created} />}
        <Count name="changed" of={changed} />
        <Count name="the same" of={same} />
        <Count name="refused" of={refused} isBad={refused > 0} />
      </dl>
      {refused > 0 ? (
        <section aria-label="Refused rows">
          <h3>Refused</h3>
          <ul className={style.refusedRows}>
            {refusals.map(({ line, column, message }) => (
              <li key={`${line} ${column} ${message}`}>
                {isOfList ? null : <strong>Line {writeCount(line)} </strong>}
                {message}
              </li>
            ))}
            {refused > refusals.length ? <li className="quiet">and more; these come first</li> : null}
          </ul>
        </section>
      ) : null}
      <Effects effects={effects} />
      {changed > 0 ? (
        <section aria-label="Changed records">
          <h3>Changed {type.plural.toLowerCase()}</h3>
          <ul>
            {samples.changed.map(({ line, id, title, changes }) => (
              <li key={id}>
                <Link href={`/records/${type.key}/${id}`}>{title}</Link>{' '}
                {isOfList ? null : <span className="quiet">line {writeCount(line)}</span>}
                {changes.map(({ field, name, before, after }) => (
                  <div key={field}>
                    {name}: <ValuePair {...{ before, after }} byRule={false} />
                  </div>
                ))}
              </li>
            ))}
          </ul>
          <More shown={samples.changed.length} of={changed} />
        </section>
      ) : null}
      {created > 0 ? (
        <section aria-label="New records">
          <h3>New {type.plural.toLowerCase()}</h3>
          <ul>
            {samples.created.map(({ line, title }) => (
              <li key={line}>
                {title} <span className="quiet">line {writeCount(line)}</span>
              </li>
            ))}
          </ul>
          <More shown={samples.created.length} of={created} />
        </section>
      ) : null}
    </div>
  );
}

export function Count({ name, of, isBad = false }: { name: string; of: number; isBad?: boolean }) {
  return (
    <div className={isBad ? style.countBad : of === 0 ? style.countNone : ''}>
      <dt>{name}</dt>
      <dd>{writeCount(of)}</dd>
    </div>
  );
}

const More = ({ shown, of }: { shown: number; of: number }) =>
  of > shown ? <p className="quiet">and {writeCount(of - shown)} more</p> : null;

/** What rules write after it. */
export function Effects({ effects }: { effects: readonly ImportEffect[] }) {
  const written = effects.filter(({ records }) => records > 0);
  if (written.length === 0) return null;
  return (
    <section aria-label="What follows">
      <h3>What follows</h3>
      <ul>
        {written.map(({ rule, type, typeName, fieldName, records, samples }) => (
          <li key={rule.id}>
            {fieldName === null ? (
              <strong>{`${typeName} made: ${writeCount(records)}`}</strong>
            ) : (
              <>
                <strong>
                  {fieldName} of {typeName}
                </strong>{' '}
                in {writeCount(records)} {records === 1 ? 'record' : 'records'}
              </>
            )}
            , by “<Link href={`/rules/${rule.id}`}>{rule.name}</Link>”
            <EffectSamples {...{ type, records, samples }} />
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Some of the records in which a field is written, and how many more there are. */
export function EffectSamples({
  type,
  records,
  samples,
  byRule = true,
}: Pick<ImportEffect, 'type' | 'records' | 'samples'> & { byRule?: boolean }) {
  return (
    <>
      {samples.map(({ id, title, before, after }) => (
        <div key={id}>
          <Link href={`/records/${type}/${id}`}>{title}</Link>: <ValuePair {...{ before, after, byRule }} />
        </div>
      ))}
      {records > samples.length && samples.length > 0 ? (
        <div className="quiet">and {writeCount(records - samples.length)} more</div>
      ) : null}
    </>
  );
}
