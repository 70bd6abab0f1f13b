'use client';

import { writeCount } from '@/core/values';
import type { LiveEffect, Spread } from '@/core/api';
import dynamic from 'next/dynamic';
import { counted } from '@/ui/kit/values/counted';
import { Loading } from '@/ui/kit/loading';
import { ValuePair } from '@/ui/kit/values/value-pair';
import kitStyle from '@/ui/kit/kit.module.css';
import previewStyle from './preview.module.css';
import style from './live-effect.module.css';

const DistributionChart = dynamic(
  () => import('./distribution-chart').then((module) => module.DistributionChart),
  {
    ssr: false,
    loading: () => <Loading what="the chart" />,
  },
);

/** What a rule would change of one field: how many, how they are spread, and the largest. */
export function Effect({
  effect,
  isFollowing,
  isIfMatching,
}: {
  effect: LiveEffect;
  isFollowing: boolean;
  /** Told although it isn't done: what would change if the rule acted on what matches already. */
  isIfMatching: boolean;
}) {
  const { changed, total, fieldName, typeName, plural, inError, largest, spread } = effect;
  return (
    <section className={previewStyle.effect} aria-label={`${fieldName} of ${plural}`}>
      <p className={previewStyle.effectCount}>
        {isIfMatching ? 'If it acted at once: ' : ''}
        {isFollowing ? 'Then also: ' : ''}
        <strong>
          {changed === 0
            ? 'Nothing would change'
            : `${writeCount(changed)} of ${counted(total, typeName, plural)} would change`}
        </strong>
        {changed === 0
          ? `: ${fieldName} is right already on all ${counted(total, typeName, plural)}.`
          : ` in ${fieldName}.`}
        {isFollowing ? <span className="quiet"> By “{effect.rule.name}”.</span> : null}
      </p>
      {inError > 0 ? (
        <p className="finding">
          On {counted(inError, typeName, plural)} it can’t be worked out: there the field will be empty, with
          the problem shown.
        </p>
      ) : null}
      {spread && isSpread(spread) ? (
        <figure className={style.effectSpread}>
          <figcaption className="quiet">{SPREAD[spread.of]}</figcaption>
          <DistributionChart spread={spread} plural={plural} />
        </figure>
      ) : null}
      {largest.length > 0 ? (
        <table className={kitStyle.members}>
          <thead>
            <tr>
              <th scope="col">
                {changed > largest.length ? `The ${largest.length} largest differences` : typeName}
              </th>
              <th scope="col" className="amount">
                {fieldName}
              </th>
            </tr>
          </thead>
          <tbody>
            {largest.map((row) => (
              <tr key={row.id}>
                <td>{row.title}</td>
                <td className="amount">
                  <ValuePair
                    before={row.before}
                    after={row.problem ? { ...row.after, text: row.problem } : row.after}
                  />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
    </section>
  );
}

const SPREAD: Readonly<Record<Spread['of'], string>> = {
  differences: 'By how much it changes',
  changes: 'From what to what',
  values: 'What it becomes',
};

/** Bars of one record each say no more than the list of these. */
const isSpread = ({ bars, others }: Spread): boolean => others > 0 || bars.some(({ records }) => records > 1);
