'use client';

import { valueAt, writeCount } from '@/core/values';
import type { CellView, ChangeView, RippleView } from '@/core/verify';
import { useMemo, useState } from 'react';
import { Link } from '@/ui/kit/navigation';
import { cellKey } from '@/ui/kit/values/cell-key';
import { ValuePair } from '@/ui/kit/values/value-pair';
import { KindGlyph } from '@/ui/theme/glyphs';
import {
  LapsedList,
  LaterList,
  ManyList,
  MOST_SHOWN,
  OutsideList,
  OverruledList,
  type Point,
  ProposalList,
  type RippleProps,
} from './ripple-lists';
import { clsx } from 'clsx';
import explainStyle from './explain.module.css';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './ripple.module.css';

/** All that follows from what is staged, wave by wave, each change with its cause. */
export function Ripple({
  ripple,
  onMark,
  heading,
  firstName = 'You changed',
  linked = false,
  goesOn = false,
}: RippleProps) {
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
        <Wave
          key={number}
          name={nameOf(number)}
          {...{ changes, linked, goesOn }}
          point={onMark ? point : null}
        />
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

const waveName = (number: number) =>
  number === 1 ? 'First wave: what follows at once' : `Wave ${number}: what follows from that`;

/** One wave; of a long one the first changes, until all are asked for. */
function Wave({
  name,
  changes,
  linked,
  goesOn,
  point,
}: {
  name: string;
  changes: readonly ChangeView[];
  linked: boolean;
  goesOn: boolean;
  point: Point | null;
}) {
  const [isWhole, setWhole] = useState(false);
  const rows = useMemo(() => rowsOf(changes), [changes]);
  const shown = isWhole ? rows : rows.slice(0, MOST_SHOWN);
  return (
    <section className={explainStyle.wave} aria-label={name}>
      <h3>
        {name}{' '}
        <span className="quiet">
          {goesOn ? 'of it shown so far: ' : ''}
          {writeCount(changes.length)}
        </span>
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
        <button
          type="button"
          className={clsx('plain', kitStyle.opens, style.waveMore)}
          onClick={() => setWhole(true)}
        >
          Show the other {writeCount(rows.length - shown.length)}
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
  for (const change of changes) if (isHeld(change)) valueAt(made, `${change.type} ${change.id}`).push(change);
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
      className={clsx(explainStyle.change, isFollowing && style.changeFollows)}
      data-follows={isFollowing || undefined}
      tabIndex={point ? 0 : undefined}
      onMouseEnter={mark}
      onMouseLeave={unmark}
      onFocus={mark}
      onBlur={unmark}
    >
      <div className={explainStyle.changeWhat}>
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
        <dl className={style.changeHolds}>
          {holds.map(({ field, fieldName, after }) => (
            <div key={field}>
              <dt>{fieldName}</dt>
              <dd className="now">{after?.text}</dd>
            </div>
          ))}
        </dl>
      ) : null}
      {change.problem ? <p className={kitStyle.cellProblem}>{change.problem}</p> : null}
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
    <div className={kitStyle.changeCause}>
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
