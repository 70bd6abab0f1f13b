'use client';

import type { OutcomesCompared } from '@/core/verify';
import { clsx } from 'clsx';
import benchStyle from './bench.module.css';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './differences.module.css';

/** Only what the drafts leave otherwise than today's rules do. */
export function Differences({ compared: { values, onlyBefore, onlyAfter } }: { compared: OutcomesCompared }) {
  if (values.length + onlyBefore.length + onlyAfter.length === 0)
    return (
      <div className="nothing">
        <strong>No difference</strong>
        With what is staged, today’s rules and the drafts leave this family the same.
      </div>
    );
  return (
    <>
      <table className={clsx(kitStyle.members, style.compared)}>
        <thead>
          <tr>
            <th scope="col">Field</th>
            <th scope="col">Today’s rules</th>
            <th scope="col">With the drafts</th>
          </tr>
        </thead>
        <tbody>
          {values.map(({ id, title, field, fieldName, before, after }) => (
            <tr key={`${id} ${field}`}>
              <td>
                {fieldName} <span className="quiet">of {title}</span>
              </td>
              <td>{before}</td>
              <td className="now">{after}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {onlyBefore.length > 0 ? (
        <p className={benchStyle.benchNote}>Only with today’s rules: {onlyBefore.join('; ')}.</p>
      ) : null}
      {onlyAfter.length > 0 ? (
        <p className={benchStyle.benchNote}>Only with the drafts: {onlyAfter.join('; ')}.</p>
      ) : null}
    </>
  );
}
