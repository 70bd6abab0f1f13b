'use client';

import { firstIn, writeCount } from '@/core/values';
import { article } from '@/core/article';
import type { ChangeView, RippleView } from '@/core/verify';
import { cellKey } from '@/ui/kit/values/cell-key';
import { KindGlyph } from '@/ui/theme/glyphs';
import { clsx } from 'clsx';
import explainStyle from './explain.module.css';
import kitStyle from '@/ui/kit/kit.module.css';

/** The changes that are pointed at: what they came from and what follows from them is pointed out. */
export interface Point {
  readonly pointed: ReadonlySet<string>;
  readonly onPoint: (changes: readonly ChangeView[]) => void;
}

export const MOST_SHOWN = 24;

/** Causes that are named. */
export const MOST_CAUSES = 3;

const PROPOSED: Record<RippleView['proposals'][number]['kind'], (what: string, at: string) => string> = {
  make: (what, at) => `${article(what)} ${what} for ${at}`,
  follow: (what, at) => `a change of the ${what} ${at}`,
  return: (what, at) => `a change of the ${what} ${at}`,
  choose: (_, at) => `which of several for ${at}`,
};

/** What rules prepared for people to approve, or tell them of. */
export function ProposalList({ ripple: { proposals = [] } }: { ripple: RippleProps['ripple'] }) {
  if (proposals.length === 0) return null;
  return (
    <section className={explainStyle.wave} aria-label="What waits in Today">
      <h3>
        What waits in Today <span className="quiet">{writeCount(proposals.length)}</span>
      </h3>
      <ul>
        {proposals
          .slice(0, MOST_SHOWN)
          .map(({ rule, kind, isDone, typeName, at, fields, missing }, index) => (
            <li key={`${rule.id} ${at.id} ${kind} ${index}`} className={explainStyle.change}>
              <div className={explainStyle.changeWhat}>
                <KindGlyph kind={rule.kind} size={16} />
                <span>
                  <strong>{isDone ? 'Told' : 'Proposed'}</strong>: {PROPOSED[kind](typeName, at.title)}
                </span>
              </div>
              <div className={kitStyle.changeCause}>
                {fields.map(({ fieldName, value }) => `${fieldName} ${value.text}`).join('; ')}.{' '}
                {missing.length > 0 ? `A person fills in ${missing.join(' and ')}. ` : ''}By “{rule.name}”.
              </div>
            </li>
          ))}
      </ul>
    </section>
  );
}

/** What was written as a set: by rule and field, how many. */
export function ManyList({ ripple: { many = [] } }: { ripple: RippleProps['ripple'] }) {
  if (many.length === 0) return null;
  return (
    <section className={explainStyle.wave} aria-label="Written as a set">
      <h3>Written as a set</h3>
      <ul>
        {many.map(({ rule, fieldName, plural, records, overruled }) => (
          <li key={`${rule.id} ${fieldName}`} className={explainStyle.change}>
            <div className={explainStyle.changeWhat}>
              <KindGlyph kind={rule.kind} size={16} />
              <span>
                <strong>{fieldName}</strong> of {writeCount(records)} {plural}
              </span>
            </div>
            <div className={kitStyle.changeCause}>
              By “{rule.name}”.
              {overruled > 0
                ? ` On ${writeCount(overruled)} more something else comes first: it is overruled there.`
                : ''}
            </div>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What waits for rules of a slower pace. */
export function LaterList({ ripple: { later = [] } }: { ripple: RippleProps['ripple'] }) {
  if (later.length === 0) return null;
  return (
    <section className={explainStyle.wave} aria-label="What follows later">
      <h3>What follows later</h3>
      <ul>
        {later.map((value) => (
          <li key={`${value.rule.id} ${value.field}`} className={explainStyle.change}>
            {laterWords(value)}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** `Insured total of Rivers of Silk and 2 more: soon after`. */
const laterWords = ({ fieldName, title, values, rule }: RippleView['later'][number]): string =>
  `${fieldName} of ${title}${values > 1 ? ` and ${writeCount(values - 1)} more` : ''}: ${rule.pace ?? 'later'}`;

/** What was entered stands against rules that would have written there in the same run; or the other way round, where both sides changed. */
export function OverruledList({ ripple: { overruled = [] } }: { ripple: RippleProps['ripple'] }) {
  if (overruled.length === 0) return null;
  return (
    <section className={explainStyle.wave} aria-label="Overruled">
      <h3>
        Overruled <span className="quiet">{writeCount(overruled.length)}</span>
      </h3>
      <ul>
        {overruled.slice(0, MOST_SHOWN).map((one, at) => (
          <li
            key={`${cellKey(one.type, one.id, one.field)} ${one.rule.id} ${at}`}
            className={explainStyle.change}
          >
            <strong>{one.fieldName}</strong> of {one.title}: {overruledWords(one)}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Rules in a circle may act on something that others then change again. */
export function LapsedList({ ripple: { lapsed = [] } }: { ripple: RippleProps['ripple'] }) {
  if (lapsed.length === 0) return null;
  return (
    <section className={explainStyle.wave} aria-label="No longer so">
      <h3>
        No longer so <span className="quiet">{writeCount(lapsed.length)}</span>
      </h3>
      <ul>
        {lapsed.slice(0, MOST_SHOWN).map(({ type, id, title, rule }) => (
          <li key={`${rule.id} ${type} ${id}`} className={explainStyle.change}>
            “{rule.name}” acted because of {title}, where what made it act was changed again in the same save.
          </li>
        ))}
      </ul>
    </section>
  );
}

function overruledWords({ value, rule, isEntered, by }: RippleView['overruled'][number]): string {
  const text = value.text || 'empty';
  if (isEntered)
    return `${text} was entered, but the other side changed too: that stands, by “${rule.name}”.`;
  const would = `would have made it ${text}.`;
  if (!by) return `what was entered or made stands; “${rule.name}” ${would}`;
  return by.id === rule.id
    ? `another record comes first by the order of “${rule.name}”; this one ${would}`
    : `“${by.name}” comes first; “${rule.name}” ${would}`;
}

/** What cascades looked at and left as it is: people must see what must not change, too. */
export function LeftList({ ripple: { left = [] } }: { ripple: RippleProps['ripple'] }) {
  if (left.length === 0) return null;
  return (
    <section className={explainStyle.wave} aria-label="Left as it is">
      <h3>Left as it is</h3>
      <ul>
        {left.map(({ rule, typeName, plural, kinds, more }) => (
          <li key={rule.id} className={explainStyle.change}>
            {kinds.map(({ why, records }) => (
              <details key={why}>
                <summary>
                  <strong>{writeCount(records.length)}</strong> {records.length === 1 ? typeName : plural}:{' '}
                  {why}
                </summary>
                <p className="quiet">
                  {listedUpTo(
                    records.map(({ title }) => title),
                    MOST_SHOWN,
                  )}
                </p>
              </details>
            ))}
            {more > 0 ? <p className="quiet">and {writeCount(more)} more that stay as they are</p> : null}
            <div className={kitStyle.changeCause}>By “{rule.name}”.</div>
          </li>
        ))}
      </ul>
    </section>
  );
}

const MOST_NAMED = 3;

/** One line for each kept field, whatever the number of records: what lies outside is told, not counted up. */
export function OutsideList({ ripple: { outside = [] } }: { ripple: RippleProps['ripple'] }) {
  if (outside.length === 0) return null;
  const groups = new Map<string, RippleView['outside'][number][]>();
  for (const cell of outside) {
    const key = `${cell.rule.id} ${cell.field}`;
    groups.set(key, [...(groups.get(key) ?? []), cell]);
  }
  return (
    <section className={explainStyle.wave} aria-label="Outside this family">
      <h3>Outside this family</h3>
      <ul>
        {[...groups].map(([key, cells]) => (
          <li key={key} className={clsx('quiet', explainStyle.change)}>
            {firstIn(cells).fieldName} of {listed(cells.map(({ title }) => title))} may change too; not all
            that it is made of is loaded here.
          </li>
        ))}
      </ul>
    </section>
  );
}

const listed = (titles: readonly string[]): string => listedUpTo(titles, MOST_NAMED);

function listedUpTo(titles: readonly string[], most: number): string {
  const named = titles.slice(0, most);
  const more = titles.length - named.length;
  if (more > 0) return `${named.join(', ')} and ${more} more`;
  return named.length > 1 ? `${named.slice(0, -1).join(', ')} and ${named.at(-1)}` : (named[0] ?? '');
}

export interface RippleProps {
  readonly ripple: Pick<RippleView, 'waves'> &
    Partial<Pick<RippleView, 'outside' | 'overruled' | 'lapsed' | 'later' | 'many' | 'proposals' | 'left'>>;
  /** Called with the cells to point at while a change is hovered or focused; with none when it no longer is. */
  readonly onMark?: (cells: ReadonlySet<string>) => void;
  /** What stands above the changes that nobody staged: taking drafts live. */
  readonly heading?: string;
  /** What stands above what was entered. */
  readonly firstName?: string;
  /** Whether titles lead to their records. */
  readonly linked?: boolean;
}
