'use client';

import { article } from '@/core/article';
import type { CreateView } from '@/core/verify';
import { Ripple } from '@/ui/kit/explain/ripple';
import { CountsGlyph, LeftOutGlyph } from '@/ui/theme/glyphs';
import { clsx } from 'clsx';
import intakeStyle from '@/ui/intake/intake.module.css';
import kitStyle from '@/ui/kit/kit.module.css';
import previewStyle from './preview.module.css';
import style from './create-example.module.css';

const WAYS: Record<CreateView['way'], (what: string) => string> = {
  directly: (what) => `${what} would be made at once`,
  proposal: (what) => `${what} would be proposed, and wait in Today`,
  both: (what) => `${what} would be made at once, and stand in Today`,
  not: () => 'Nothing would be made for this one',
};

const FROM: Record<CreateView['fields'][number]['from'], string> = {
  assigned: 'from the rule',
  link: 'the link between the two',
  default: 'its default',
  number: 'its next number',
};

/** What a create rule would make for the sample record, as if it had just come to meet the condition; and why not, where it doesn't. */
export function CreateExample({ view }: { view: CreateView }) {
  const { meets, reasons, fields, made, typeName, way, record, ripple, refusal } = view;
  const isMissing = fields.some(({ missing }) => missing !== null);
  const one = `${article(typeName)} ${typeName}`;
  const verdict =
    meets === null
      ? 'It depends on records outside this family'
      : !meets
        ? 'Nothing would be made'
        : isMissing
          ? `${capital(one)} would be proposed: a person fills in the rest`
          : capital(WAYS[way](one));
  const Glyph = meets ? CountsGlyph : LeftOutGlyph;
  return (
    <>
      <div className={previewStyle.workedResult} role="status">
        <div>
          <div className="quiet">
            {meets === false
              ? `For “${record.title}”, as it stands`
              : `If “${record.title}” had just come to meet the condition`}
          </div>
          <div className={clsx(kitStyle.workedNumber, style.createVerdict)}>{verdict}</div>
        </div>
        {made.length > 0 ? (
          <div className={previewStyle.workedVerdict}>
            <div className="quiet">Made for it already</div>
            {made.join(', ')}
          </div>
        ) : null}
      </div>
      {reasons.length > 0 ? (
        <p className={clsx(kitStyle.standing, intakeStyle.leftOut, style.createReasons)}>
          <Glyph size={16} />
          <span>
            {record.title} doesn’t meet the condition.
            {reasons.map(({ test, found }) => (
              <span key={test} className={kitStyle.reason}>
                fails “{test}”: here {found}
              </span>
            ))}
          </span>
        </p>
      ) : null}
      {refusal ? <p className="finding">{refusal}</p> : null}
      {fields.length > 0 ? (
        <table className={kitStyle.members}>
          <thead>
            <tr>
              <th scope="col">{typeName}</th>
              <th scope="col">It would hold</th>
              <th scope="col">Where that comes from</th>
            </tr>
          </thead>
          <tbody>
            {fields.map(({ field, fieldName, value, from, missing }) => (
              <tr key={field}>
                <th scope="row">{fieldName}</th>
                <td className={value.wire === null ? 'quiet' : 'now'}>{value.text}</td>
                <td>
                  {missing === 'empty' ? (
                    <span className={kitStyle.problemWord}>must be filled in by a person</span>
                  ) : missing === 'taken' ? (
                    <span className={kitStyle.problemWord}>stands in another already</span>
                  ) : (
                    <span className="quiet">{FROM[from]}</span>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
      {ripple && follows(ripple) ? (
        <div className={style.createRipple}>
          <h3>What follows</h3>
          <Ripple ripple={{ ...ripple, proposals: [] }} />
        </div>
      ) : null}
    </>
  );
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

const follows = ({ waves }: NonNullable<CreateView['ripple']>): boolean => waves.length > 0;
