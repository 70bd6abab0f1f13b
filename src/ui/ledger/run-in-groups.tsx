'use client';

import { grouped } from '@/core/grouped';
import { writeCount } from '@/core/values';
import { groupKeyText, type RippleGroup } from '@/core/verify';
import { Input } from 'antd';
import { useState } from 'react';
import { useRunGroup, useRunGroups } from '@/ui/api/ledger-queries';
import { ChangeRow } from '@/ui/kit/explain/change-row';
import { GroupRow } from '@/ui/kit/explain/group-row';
import { Loading } from '@/ui/kit/loading';
import { More } from '@/ui/kit/more';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { waveName } from '@/ui/kit/explain/ripple-rows';
import explainStyle from '@/ui/kit/explain/explain.module.css';
import style from './run-in-groups.module.css';

/** A run of thousands: what is alike in it, wave by wave, each opened into its records. */
export function RunInGroups({ run, firstName }: { run: string; firstName: string }) {
  const { data, error } = useRunGroups(run);
  if (error) return <ProblemNotice error={error} />;
  if (!data) return <Loading what="what is alike in it" />;
  const waves = grouped(data.groups, ({ wave }) => String(wave));
  return [...waves].map(([number, groups]) => (
    <section
      key={number}
      className={explainStyle.wave}
      aria-label={number === '0' ? firstName : waveName(Number(number))}
    >
      <h3>
        {number === '0' ? firstName : waveName(Number(number))}{' '}
        <span className="quiet">{writeCount(groups.reduce((sum, { records }) => sum + records, 0))}</span>
      </h3>
      <ul>
        {groups.map((group) => (
          <GroupRow key={groupKeyText(group)} group={group}>
            <GroupRecords {...{ run, group }} />
          </GroupRow>
        ))}
      </ul>
    </section>
  ));
}

/** More records than these can be searched. */
const FEW = 24;

function GroupRecords({ run, group }: { run: string; group: RippleGroup }) {
  const [search, setSearch] = useState('');
  const { data, error, hasNextPage, fetchNextPage, isFetchingNextPage } = useRunGroup(run, group, search);
  const changes = data?.pages.flatMap((page) => page.changes) ?? [];
  return (
    <>
      {group.records > FEW ? (
        <Input.Search
          allowClear
          className={style.search}
          aria-label={`Search these ${group.plural}`}
          placeholder="Search titles"
          onSearch={setSearch}
        />
      ) : null}
      <ProblemNotice error={error} />
      {data ? (
        <ul>
          {changes.map((change) => (
            <ChangeRow key={change.id} change={change} holds={[]} linked point={null} isAlike />
          ))}
          {changes.length === 0 ? (
            <li className={explainStyle.change}>None of them is called that.</li>
          ) : null}
        </ul>
      ) : error ? null : (
        <Loading what="the records" />
      )}
      <More {...{ hasNextPage, isFetchingNextPage, fetchNextPage }} label="Show more of them" />
    </>
  );
}
