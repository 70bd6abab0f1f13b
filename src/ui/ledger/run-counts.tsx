'use client';

import { writeCount } from '@/core/values';
import type { RunCount } from '@/core/api';
import { Link } from '@/ui/kit/navigation';
import { clsx } from 'clsx';
import style from './run-counts.module.css';

const KINDS: Record<RunCount['kind'], string> = {
  created: 'made',
  changed: 'changed',
  deleted: 'into the bin',
  restored: 'back from the bin',
};

/** `1 Loan`, `1,204 Loans`. */
const counted = ({ records, typeName, plural }: RunCount): string =>
  `${writeCount(records)} ${records === 1 ? typeName : plural}`;

/** What a run did, counted whatever its size: by whom or which rule, and of which type. */
export function RunCounts({ counts }: { counts: readonly RunCount[] }) {
  return (
    <section className={clsx('sheet', style.runCounts)} aria-label="How many records">
      <table>
        <tbody>
          {counts.map((count) => (
            <tr key={`${count.type} ${count.kind} ${count.rule?.id ?? ''}`}>
              <td className="amount">{counted(count)}</td>
              <td>{KINDS[count.kind]}</td>
              <td>
                {count.rule ? (
                  <>
                    by “<Link href={`/rules/${count.rule.id}`}>{count.rule.name}</Link>”
                  </>
                ) : (
                  <span className="quiet">by hand</span>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
