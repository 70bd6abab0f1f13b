'use client';

import { certain, writeCount } from '@/core/values';
import type { Explanation } from '@/core/verify';
import { Button, Drawer } from 'antd';
import { useEffect } from 'react';
import { Link } from '@/ui/kit/navigation';
import { happened } from '@/ui/kit/happened';
import { useSeesPart } from '@/ui/api/may';
import { useExplanation, useRecord } from '@/ui/api/queries';
import { ExplanationTable, MapTable, recordsWords } from '@/ui/kit/explain/explanation-table';
import { PiecesTable } from '@/ui/kit/explain/pieces-table';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { when } from '@/ui/kit/values/when';
import { clsx } from 'clsx';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './opened-value.module.css';

export interface ValueAt {
  readonly type: string;
  readonly id: string;
  readonly field: string;
}

export interface OpenedValueProps {
  readonly at: ValueAt;
  /** The values through which this one was opened, the first one first. */
  readonly way: readonly ValueAt[];
  readonly onOpen: (at: ValueAt) => void;
  readonly onBack: () => void;
  readonly onClose: () => void;
}

/** A kept value opened: the records in it with their amounts, those left out and why, and the rule that says so. */
export function OpenedValue({ at, way, onOpen, onBack, onClose }: OpenedValueProps) {
  const { data, error, fetchNextPage, isFetchingNextPage } = useExplanation(at.type, at.id, at.field);
  const { data: record } = useRecord(at.type, at.id);
  useEffect(() => happened('opened'), []);
  const asOf = record?.asOf[at.field] ?? null;
  const first = data?.pages[0];
  const last = data?.pages.at(-1);
  const explanation = first && { ...first, members: data.pages.flatMap(({ members }) => members) };
  return (
    <Drawer
      open
      size={600}
      onClose={onClose}
      title={
        explanation ? `${explanation.field.name} of ${explanation.record.title}` : 'What is in this value'
      }
      extra={
        way.length > 0 ? (
          <Button size="small" onClick={onBack}>
            Back
          </Button>
        ) : null
      }
    >
      <ProblemNotice error={error} />
      {explanation ? (
        <Opened
          explanation={explanation}
          asOf={asOf}
          onOpen={onOpen}
          more={
            last?.next ? (
              <span className="opened-more">
                {writeCount(explanation.members.length)} of {writeCount(explanation.total)} are shown, those
                that count first.{' '}
                <Button size="small" loading={isFetchingNextPage} onClick={() => void fetchNextPage()}>
                  Show more
                </Button>
              </span>
            ) : null
          }
        />
      ) : error ? null : (
        <Loading what="what is in it" />
      )}
    </Drawer>
  );
}

/** What counts besides, that whoever asks doesn't see. */
function unseenWords({ records, text }: NonNullable<Explanation['unseen']>): string {
  if (records === null) return 'and others that you may not see';
  return `and ${writeCount(records)} records that you may not see${text === null ? '' : `: ${text}`}`;
}

function Opened({
  explanation,
  asOf,
  onOpen,
  more,
}: {
  explanation: Explanation;
  /** The moment that the value is of, where it waits for its rule's pace. */
  asOf: string | null;
  onOpen: (at: ValueAt) => void;
  more: React.ReactNode;
}) {
  const { stored, counted, total, rule, result, writtenBy, map, unseen } = explanation;
  const seesPart = useSeesPart();
  return (
    <>
      <div className={style.openedResult}>
        <strong className={kitStyle.workedNumber}>{stored.problem ?? stored.value.text}</strong>
        {explanation.formula ? null : (
          <span className="quiet">
            {writeCount(counted)} of {writeCount(total)} {recordsWords(explanation)}{' '}
            {unseen ? 'that you see ' : ''}count
          </span>
        )}
      </div>
      <p className={style.openedRule}>
        {rule.sentence} {seesPart ? null : <Link href={`/rules/${rule.id}`}>Open the rule</Link>}
      </p>
      {writtenBy && !seesPart ? (
        <p className={style.openedRule}>
          Last written on{' '}
          <Link href={`/ledger/${writtenBy.run}`}>
            <time dateTime={writtenBy.at}>{when(writtenBy.at)}</time>
          </Link>
          , in a run of {writtenBy.person ?? 'Oikon'}.
        </p>
      ) : null}
      {map ? <MapTable explanation={explanation} map={map} /> : null}
      {result && !map?.isReacting && result.value.text !== stored.value.text ? (
        <p className={asOf ? style.openedRule : 'finding'}>
          {asOf
            ? `The value is as of ${when(asOf)}. Of what stands below it would be ${result.value.text || 'empty'} now.`
            : `The rule would give ${result.value.text} now. Something outside Oikon has changed these records.`}
        </p>
      ) : null}
      {explanation.formula ? (
        <PiecesTable formula={explanation.formula} />
      ) : (
        <ExplanationTable
          explanation={explanation}
          more={more}
          linkTo={(member) => <Link href={`/records/${member.type}/${member.id}`}>{member.title}</Link>}
          openValue={(member) => (
            <button
              type="button"
              className={clsx('plain', kitStyle.opens)}
              aria-label={`${member.value?.text} of ${member.title}. Open what it is made of`}
              onClick={() => onOpen({ type: member.type, id: member.id, field: certain(member.opens) })}
            >
              {member.value?.text}
            </button>
          )}
        />
      )}
      {unseen ? <p className={style.openedRule}>{unseenWords(unseen)}</p> : null}
    </>
  );
}
