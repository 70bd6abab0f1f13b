'use client';

import { article } from '@/core/article';
import type { CellView, ChangeView, RippleView } from '@/core/verify';
import { useMemo, useState } from 'react';
import { Link } from '@/ui/kit/navigation';
import { cellKey } from '@/ui/kit/values/cell-key';
import { ValuePair } from '@/ui/kit/values/value-pair';
import { KindGlyph } from '@/ui/theme/glyphs';

export interface RippleProps {
  readonly ripple: Pick<RippleView, 'waves'> &
    Partial<Pick<RippleView, 'outside' | 'overruled' | 'lapsed' | 'later' | 'many' | 'proposals'>>;
  /** Called with the cells to point at while a change is hovered or focused; with none when it no longer is. */
  readonly onMark?: (cells: ReadonlySet<string>) => void;
  /** What stands above the changes that nobody staged: taking drafts live. */
  readonly heading?: string;
  /** What stands above what was entered. */
  readonly firstName?: string;
  /** Whether titles lead to their records. */
  readonly linked?: boolean;
}

/** All that follows from what is staged, wave by wave, each change with its cause. */
export function Ripple({ ripple, onMark, heading, firstName = 'You changed', linked = false }: RippleProps) {
  const [pointed, setPointed] = useState<string | null>(null);
  const followers = useMemo(() => followersIn(ripple.waves), [ripple.waves]);
  const point: Point = {
    pointed,
    onPoint: (change) => {
      setPointed(change ? keyOf(change) : null);
      const near = change
        ? [keyOf(change), ...change.causes.map(keyOf), ...(followers.get(keyOf(change)) ?? [])]
        : [];
      onMark?.(new Set(near));
    },
  };
  const nameOf = (number: number) => heading ?? (number === 0 ? firstName : waveName(number));
  return (
    <>
      {ripple.waves.map(({ number, changes }) => (
        <Wave key={number} name={nameOf(number)} {...{ changes, linked }} point={onMark ? point : null} />
      ))}
      <ProposalList ripple={ripple} />
      <ManyList ripple={ripple} />
      <LaterList ripple={ripple} />
      <OverruledList ripple={ripple} />
      <LapsedList ripple={ripple} />
      <OutsideList ripple={ripple} />
    </>
  );
}

/** What a change leads to, by its cell: the cells of those that name it as a cause. */
function followersIn(waves: RippleView['waves']): ReadonlyMap<string, readonly string[]> {
  const followers = new Map<string, string[]>();
  for (const change of waves.flatMap(({ changes }) => changes))
    for (const cause of change.causes)
      followers.set(keyOf(cause), [...(followers.get(keyOf(cause)) ?? []), keyOf(change)]);
  return followers;
}

/** The change that is pointed at: what it came from and what follows from it are pointed out. */
interface Point {
  readonly pointed: string | null;
  readonly onPoint: (change: ChangeView | null) => void;
}

const waveName = (number: number) =>
  number === 1 ? 'First wave: what follows at once' : `Wave ${number}: what follows from that`;

const MOST_SHOWN = 24;

/** One wave; of a long one the first changes, until all are asked for. */
function Wave({
  name,
  changes,
  linked,
  point,
}: {
  name: string;
  changes: readonly ChangeView[];
  linked: boolean;
  point: Point | null;
}) {
  const [isWhole, setWhole] = useState(false);
  const rows = useMemo(() => rowsOf(changes), [changes]);
  const shown = isWhole ? rows : rows.slice(0, MOST_SHOWN);
  return (
    <section className="wave" aria-label={name}>
      <h3>
        {name} <span className="quiet">{changes.length.toLocaleString('en-GB')}</span>
      </h3>
      <ul>
        {shown.map(({ change, holds }) => (
          <ChangeRow
            key={`${cellKey(change.type, change.id, change.field)} ${change.kind}`}
            change={change}
            holds={holds}
            linked={linked}
            point={point}
          />
        ))}
      </ul>
      {shown.length < rows.length ? (
        <button type="button" className="plain opens wave-more" onClick={() => setWhole(true)}>
          Show the other {(rows.length - shown.length).toLocaleString('en-GB')}
        </button>
      ) : null}
    </section>
  );
}

interface Row {
  readonly change: ChangeView;
  /** What a record that a rule made holds, field by field. */
  readonly holds: readonly ChangeView[];
}

/** What a rule made stands in one row with all that it holds. */
function rowsOf(changes: readonly ChangeView[]): Row[] {
  const made = new Map<string, ChangeView[]>(
    changes.flatMap(({ kind, rule, type, id }) =>
      kind === 'created' && rule ? [[`${type} ${id}`, []]] : [],
    ),
  );
  const isHeld = ({ kind, rule, type, id }: ChangeView) =>
    kind === 'field' && rule !== null && made.has(`${type} ${id}`);
  for (const change of changes) if (isHeld(change)) made.get(`${change.type} ${change.id}`)!.push(change);
  return changes
    .filter((change) => !isHeld(change))
    .map((change) => ({
      change,
      holds: change.kind === 'created' ? (made.get(`${change.type} ${change.id}`) ?? []) : [],
    }));
}

const keyOf = ({ type, id, field }: CellView) => cellKey(type, id, field);

function ChangeRow({
  change,
  holds,
  linked,
  point,
}: {
  change: ChangeView;
  holds: readonly ChangeView[];
  linked: boolean;
  point: Point | null;
}) {
  const title = linked ? (
    <Link href={`/records/${change.type}/${change.id}`}>{change.title}</Link>
  ) : (
    change.title
  );
  const mark = () => point?.onPoint(change);
  const unmark = () => point?.onPoint(null);
  const pointed = point?.pointed ?? null;
  const isFollowing = pointed !== null && change.causes.some((cause) => keyOf(cause) === pointed);
  return (
    <li
      className={isFollowing ? 'change change-follows' : 'change'}
      tabIndex={point ? 0 : undefined}
      onMouseEnter={mark}
      onMouseLeave={unmark}
      onFocus={mark}
      onBlur={unmark}
    >
      <div className="change-what">
        {change.rule ? <KindGlyph kind={change.rule.kind} size={16} /> : null}
        {change.kind === 'field' ? (
          <span>
            <strong>{change.fieldName}</strong> of {title}
          </span>
        ) : (
          <span>
            <strong>{change.typeName}</strong> {title} is {change.kind}
          </span>
        )}
      </div>
      {change.before && change.after ? (
        <div className="change-values">
          <ValuePair before={change.before} after={change.after} byRule={change.rule !== null} />
        </div>
      ) : null}
      {holds.length > 0 ? (
        <dl className="change-holds">
          {holds.map(({ field, fieldName, after }) => (
            <div key={field}>
              <dt>{fieldName}</dt>
              <dd className="now">{after?.text}</dd>
            </div>
          ))}
        </dl>
      ) : null}
      {change.problem ? <p className="cell-problem">{change.problem}</p> : null}
      <Cause change={change} />
    </li>
  );
}

const MOST_CAUSES = 3;

function Cause({ change }: { change: ChangeView }) {
  if (!change.rule && change.causes.length === 0) return null;
  const named = change.causes
    .slice(0, MOST_CAUSES)
    .map((cause) => (cause.field === '' ? cause.title : `${cause.fieldName} of ${cause.title}`));
  const more = change.causes.length - named.length;
  return (
    <div className="change-cause">
      {named.length > 0 ? (
        <>
          {change.kind === 'field' || change.rule ? 'because of' : 'along with'} {named.join('; ')}
          {more > 0 ? `; and ${more} more` : ''}.{' '}
        </>
      ) : null}
      {change.rule ? (
        <>
          By “{change.rule.name}”{change.rule.pace ? `, ${change.rule.pace}` : ''}.
        </>
      ) : null}
    </div>
  );
}

const PROPOSED: Record<RippleView['proposals'][number]['kind'], (what: string, at: string) => string> = {
  make: (what, at) => `${article(what)} ${what} for ${at}`,
  follow: (what, at) => `a change of the ${what} ${at}`,
  return: (what, at) => `a change of the ${what} ${at}`,
  choose: (_, at) => `which of several for ${at}`,
};

/** What rules prepared for people to approve, or tell them of. */
function ProposalList({ ripple: { proposals = [] } }: { ripple: RippleProps['ripple'] }) {
  if (proposals.length === 0) return null;
  return (
    <section className="wave" aria-label="What waits in Today">
      <h3>
        What waits in Today <span className="quiet">{proposals.length.toLocaleString('en-GB')}</span>
      </h3>
      <ul>
        {proposals
          .slice(0, MOST_SHOWN)
          .map(({ rule, kind, isDone, typeName, at, fields, missing }, index) => (
            <li key={`${rule.id} ${at.id} ${kind} ${index}`} className="change">
              <div className="change-what">
                <KindGlyph kind={rule.kind} size={16} />
                <span>
                  <strong>{isDone ? 'Told' : 'Proposed'}</strong>: {PROPOSED[kind](typeName, at.title)}
                </span>
              </div>
              <div className="change-cause">
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
function ManyList({ ripple: { many = [] } }: { ripple: RippleProps['ripple'] }) {
  if (many.length === 0) return null;
  return (
    <section className="wave" aria-label="Written as a set">
      <h3>Written as a set</h3>
      <ul>
        {many.map(({ rule, fieldName, plural, records }) => (
          <li key={`${rule.id} ${fieldName}`} className="change">
            <div className="change-what">
              <KindGlyph kind={rule.kind} size={16} />
              <span>
                <strong>{fieldName}</strong> of {records.toLocaleString('en-GB')} {plural}
              </span>
            </div>
            <div className="change-cause">By “{rule.name}”.</div>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What waits for rules of a slower pace. */
function LaterList({ ripple: { later = [] } }: { ripple: RippleProps['ripple'] }) {
  if (later.length === 0) return null;
  return (
    <section className="wave" aria-label="What follows later">
      <h3>What follows later</h3>
      <ul>
        {later.map((value) => (
          <li key={`${value.rule.id} ${value.field}`} className="change">
            {laterWords(value)}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** `Insured total of Rivers of Silk and 2 more: soon after`. */
const laterWords = ({ fieldName, title, values, rule }: RippleView['later'][number]): string =>
  `${fieldName} of ${title}${values > 1 ? ` and ${(values - 1).toLocaleString('en-GB')} more` : ''}: ${rule.pace ?? 'later'}`;

/** What was entered stands against rules that would have written there in the same run; or the other way round, where both sides changed. */
function OverruledList({ ripple: { overruled = [] } }: { ripple: RippleProps['ripple'] }) {
  if (overruled.length === 0) return null;
  return (
    <section className="wave" aria-label="Overruled">
      <h3>
        Overruled <span className="quiet">{overruled.length.toLocaleString('en-GB')}</span>
      </h3>
      <ul>
        {overruled.slice(0, MOST_SHOWN).map((one, at) => (
          <li key={`${cellKey(one.type, one.id, one.field)} ${one.rule.id} ${at}`} className="change">
            <strong>{one.fieldName}</strong> of {one.title}: {overruledWords(one)}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Rules in a circle may act on something that others then change again. */
function LapsedList({ ripple: { lapsed = [] } }: { ripple: RippleProps['ripple'] }) {
  if (lapsed.length === 0) return null;
  return (
    <section className="wave" aria-label="No longer so">
      <h3>
        No longer so <span className="quiet">{lapsed.length.toLocaleString('en-GB')}</span>
      </h3>
      <ul>
        {lapsed.slice(0, MOST_SHOWN).map(({ type, id, title, rule }) => (
          <li key={`${rule.id} ${type} ${id}`} className="change">
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

const MOST_NAMED = 3;

/** One line for each kept field, whatever the number of records: what lies outside is told, not counted up. */
function OutsideList({ ripple: { outside = [] } }: { ripple: RippleProps['ripple'] }) {
  if (outside.length === 0) return null;
  const groups = new Map<string, RippleView['outside'][number][]>();
  for (const cell of outside) {
    const key = `${cell.rule.id} ${cell.field}`;
    groups.set(key, [...(groups.get(key) ?? []), cell]);
  }
  return (
    <section className="wave" aria-label="Outside this family">
      <h3>Outside this family</h3>
      <ul>
        {[...groups].map(([key, cells]) => (
          <li key={key} className="change quiet">
            {cells[0]!.fieldName} of {listed(cells.map(({ title }) => title))} may change too; not all that it
            is made of is loaded here.
          </li>
        ))}
      </ul>
    </section>
  );
}

function listed(titles: readonly string[]): string {
  const named = titles.slice(0, MOST_NAMED);
  const more = titles.length - named.length;
  if (more > 0) return `${named.join(', ')} and ${more} more`;
  return named.length > 1 ? `${named.slice(0, -1).join(', ')} and ${named.at(-1)}` : (named[0] ?? '');
}
