'use client';

import { writeCount } from '@/core/values';
import { Link } from '@/ui/kit/navigation';
import { useSeesPart } from '@/ui/api/may';
import { useFollowers } from '@/ui/api/queries';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { KindGlyph } from '@/ui/theme/glyphs';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './dependants.module.css';

/** Which other records may change when this one does, and by which rules. */
export function Followers({ type, id }: { type: string; id: string }) {
  // What follows by which rules would tell more than is seen.
  const seesPart = useSeesPart();
  const { data, error } = useFollowers(type, id, !seesPart);
  if (error) return <ProblemNotice error={error} />;
  if (!data || data.followers.length === 0) return null;
  return (
    <section className="sheet" aria-label="What follows from this record">
      <div className="sheet-head">
        <h2>What follows from this record</h2>
      </div>
      <ul className={style.followers}>
        {data.followers.map((follower) => (
          <li key={`${follower.rule.id} ${follower.field}`}>
            <KindGlyph kind={follower.rule.kind} size={16} />
            <span>
              <strong>{follower.fieldName}</strong> of{' '}
              {follower.targets.map(({ id: target, title }, index) => (
                <span key={target}>
                  {index > 0 ? ', ' : ''}
                  <Link href={`/records/${follower.type}/${target}`}>{title}</Link>
                </span>
              ))}
              {follower.count > follower.targets.length
                ? ` and ${writeCount(follower.count - follower.targets.length)} more`
                : ''}{' '}
              <span className={kitStyle.changeCause}>
                by “<Link href={`/rules/${follower.rule.id}`}>{follower.rule.name}</Link>”
              </span>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
