'use client';

import { writeCount } from '@/core/values';
import type { CellView, RippleGroup } from '@/core/verify';
import { type ReactNode, useState } from 'react';
import { ValuePair } from '@/ui/kit/values/value-pair';
import { KindGlyph } from '@/ui/theme/glyphs';
import { MOST_CAUSES } from './ripple-lists';
import { clsx } from 'clsx';
import explainStyle from './explain.module.css';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './group-row.module.css';

export interface GroupRowProps {
  readonly group: RippleGroup;
  /** What they came from; left out where that isn't read. */
  readonly causes?: readonly CellView[];
  /** Called as the group is pointed at, and when it no longer is. */
  readonly onPoint?: ((isOn: boolean) => void) | null;
  /** Its records, drawn once they are asked for. */
  readonly children: ReactNode;
}

const EVENTS: Readonly<Record<Exclude<RippleGroup['kind'], 'field'>, string>> = {
  created: 'are made',
  deleted: 'go into the bin',
  restored: 'come back from the bin',
};

/** Changes that are alike, in a line: how many, from what to what, by which rule; it opens into its records. */
export function GroupRow({ group, causes = [], onPoint = null, children }: GroupRowProps) {
  const [isOpen, setOpen] = useState(false);
  const { kind, fieldName, records, plural, rule, problems } = group;
  return (
    <li
      className={explainStyle.change}
      onMouseEnter={() => onPoint?.(true)}
      onMouseLeave={() => onPoint?.(false)}
    >
      <div className={explainStyle.changeWhat}>
        {rule ? <KindGlyph kind={rule.kind} size={16} /> : null}
        <button
          type="button"
          className={clsx('plain', style.head)}
          aria-expanded={isOpen}
          onClick={() => setOpen(!isOpen)}
        >
          <span className={style.fold} aria-hidden>
            {isOpen ? '▾' : '▸'}
          </span>{' '}
          {kind === 'field' ? (
            <>
              <strong>{fieldName}</strong> of <strong>{writeCount(records)}</strong> {plural}
            </>
          ) : (
            <>
              <strong>{writeCount(records)}</strong> {plural} {EVENTS[kind]}
            </>
          )}
        </button>
      </div>
      {kind === 'field' ? <Becomes group={group} /> : null}
      {problems > 0 ? (
        <p className={kitStyle.cellProblem}>{writeCount(problems)} of them can’t be worked out.</p>
      ) : null}
      <div className={kitStyle.changeCause}>
        {causesWords(causes)}
        {rule ? `By “${rule.name}”${rule.pace ? `, ${rule.pace}` : ''}.` : null}
      </div>
      {isOpen ? <div className={style.records}>{children}</div> : null}
    </li>
  );
}

/** From what to what: all the same way; of amounts how many got larger and smaller, with the largest; of others the most frequent ways. */
function Becomes({ group: { becomes, ways, amounts, records, samples, rule } }: { group: RippleGroup }) {
  const [first] = becomes;
  const byRule = rule !== null;
  if (ways === 1 && first)
    return (
      <div className="change-values">
        <ValuePair before={first.before} after={first.after} byRule={byRule} />
      </div>
    );
  if (amounts) {
    const { larger, smaller } = amounts;
    const told = [
      larger > 0 ? `${writeCount(larger)} larger` : '',
      smaller > 0 ? `${writeCount(smaller)} smaller` : '',
      records > larger + smaller ? `${writeCount(records - larger - smaller)} otherwise` : '',
    ];
    return (
      <>
        <span>{told.filter((part) => part !== '').join(', ')}; the most:</span>
        <ul className={style.ways}>
          {samples.map(({ id, title, before, after }) => (
            <li key={id}>
              <span className={style.title}>{title}</span>
              {before && after ? <ValuePair {...{ before, after, byRule }} /> : null}
            </li>
          ))}
        </ul>
      </>
    );
  }
  return (
    <>
      <ul className={style.ways}>
        {becomes.map(({ before, after, records: alike }) => (
          <li key={`${before.text} → ${after.text}`}>
            <span className={style.many}>{writeCount(alike)}</span>
            <ValuePair {...{ before, after, byRule }} />
          </li>
        ))}
      </ul>
      {ways > becomes.length ? (
        <span className="quiet">and {writeCount(ways - becomes.length)} other ways</span>
      ) : null}
    </>
  );
}

function causesWords(causes: readonly CellView[]): string {
  if (causes.length === 0) return '';
  if (causes.length > MOST_CAUSES) return `because of ${writeCount(causes.length)} changes. `;
  const named = causes.map(({ field, fieldName, title }) =>
    field === '' ? title : `${fieldName} of ${title}`,
  );
  return `because of ${named.join('; ')}. `;
}
