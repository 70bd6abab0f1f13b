'use client';

import { Drawer } from 'antd';
import Link from 'next/link';
import { useExplanation } from '../api/queries';
import { ExplanationTable } from '../kit/explanation-table';
import { Loading } from '../kit/loading';
import { ProblemNotice } from '../kit/problem-notice';

export interface ValueAt {
  readonly type: string;
  readonly id: string;
  readonly field: string;
}

/** A kept value opened: the records in it with their amounts, those left out and why, and the rule that says so. */
export function OpenedValue({
  at,
  onOpen,
  onClose,
}: {
  at: ValueAt;
  onOpen: (at: ValueAt) => void;
  onClose: () => void;
}) {
  const { data, error } = useExplanation(at.type, at.id, at.field);
  return (
    <Drawer
      open
      size={600}
      onClose={onClose}
      title={data ? `${data.field.name} of ${data.record.title}` : 'What is in this value'}
    >
      <ProblemNotice error={error} />
      {data ? (
        <>
          <div className="opened-result">
            <strong className="worked-number">{data.stored.problem ?? data.stored.value.text}</strong>
            <span className="quiet">
              {data.counted} of {data.members.length} {data.children.name.toLowerCase()} count
            </span>
          </div>
          <p className="opened-rule">
            {data.rule.sentence} <Link href={`/rules/${data.rule.id}`}>Open the rule</Link>
          </p>
          {data.result && data.result.value.text !== data.stored.value.text ? (
            <p className="finding">
              The rule would give {data.result.value.text} now. Something outside Oikon has changed these
              records.
            </p>
          ) : null}
          <ExplanationTable
            explanation={data}
            linkTo={(member) => <Link href={`/records/${member.type}/${member.id}`}>{member.title}</Link>}
            openValue={(member) => (
              <button
                type="button"
                className="plain opens"
                aria-label={`${member.value?.text} of ${member.title}. Open what it is made of`}
                onClick={() => onOpen({ type: member.type, id: member.id, field: member.opens! })}
              >
                {member.value?.text}
              </button>
            )}
          />
        </>
      ) : error ? null : (
        <Loading what="what is in it" />
      )}
    </Drawer>
  );
}
