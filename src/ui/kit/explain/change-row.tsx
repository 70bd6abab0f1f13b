'use client';

import type { ChangeView } from '@/core/verify';
import { Link } from '@/ui/kit/navigation';
import { ValuePair } from '@/ui/kit/values/value-pair';
import { KindGlyph } from '@/ui/theme/glyphs';
import { MOST_CAUSES, type Point } from './ripple-lists';
import { keyOf } from './ripple-rows';
import { clsx } from 'clsx';
import explainStyle from './explain.module.css';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './ripple.module.css';

/** One change, with its cause. */
export function ChangeRow({
  change,
  holds,
  linked,
  point,
  isAlike = false,
}: {
  change: ChangeView;
  holds: readonly ChangeView[];
  linked: boolean;
  point: Point | null;
  /** It stands among changes of the same field by the same rule: that isn't said again. */
  isAlike?: boolean;
}) {
  const title = linked ? (
    <Link href={`/records/${change.type}/${change.id}`}>{change.title}</Link>
  ) : (
    change.title
  );
  const mark = () => point?.onPoint([change]);
  const unmark = () => point?.onPoint([]);
  const isFollowing = change.causes.some((cause) => point?.pointed.has(keyOf(cause)) === true);
  return (
    <li
      className={clsx(explainStyle.change, isFollowing && style.changeFollows, isAlike && style.alike)}
      data-follows={isFollowing || undefined}
      tabIndex={point ? 0 : undefined}
      onMouseEnter={mark}
      onMouseLeave={unmark}
      onFocus={mark}
      onBlur={unmark}
    >
      <div className={explainStyle.changeWhat}>
        {change.rule && !isAlike ? <KindGlyph kind={change.rule.kind} size={16} /> : null}
        {isAlike ? (
          <span>{title}</span>
        ) : change.kind === 'field' ? (
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
      <Cause change={isAlike ? { ...change, rule: null } : change} />
    </li>
  );
}

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
