'use client';

import { writeCount } from '@/core/values';
import {
  type CellView,
  type ChangeView,
  groupedChanges,
  groupKeyText,
  LEAST_ALIKE,
  type RippleGroup,
} from '@/core/verify';
import { Input } from 'antd';
import { useMemo, useState } from 'react';
import { ChangeRow } from './change-row';
import { GroupRow } from './group-row';
import { followersIn, keyOf, type Row, rowsOf, searchedWaves, waveName } from './ripple-rows';
import {
  LapsedList,
  LaterList,
  LeftList,
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
export function Ripple({ ripple, onMark, heading, firstName = 'You changed', linked = false }: RippleProps) {
  const [pointed, setPointed] = useState<ReadonlySet<string>>(new Set());
  const [search, setSearch] = useState('');
  const followers = useMemo(() => followersIn(ripple.waves), [ripple.waves]);
  const waves = useMemo(() => searchedWaves(ripple.waves, search), [ripple.waves, search]);
  const all = ripple.waves.reduce((sum, { changes }) => sum + changes.length, 0);
  const point: Point = {
    pointed,
    onPoint: (changes) => {
      setPointed(new Set(changes.map(keyOf)));
      const near = changes.flatMap((change) => [
        ...[keyOf(change), ...change.causes.map(keyOf)],
        ...(followers.get(keyOf(change)) ?? []),
      ]);
      onMark?.(new Set(near));
    },
  };
  const nameOf = (number: number) => heading ?? (number === 0 ? firstName : waveName(number));
  return (
    <>
      {all > MOST_SHOWN ? (
        <Input.Search
          allowClear
          className={style.search}
          aria-label="Search what changed"
          placeholder="Search records, fields, values and rules"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
      ) : null}
      {all > 0 && waves.length === 0 ? (
        <p className={explainStyle.change}>Nothing of it holds that.</p>
      ) : null}
      {waves.map(({ number, changes }) => (
        <Wave
          key={number}
          {...{ number }}
          name={nameOf(number)}
          {...{ changes, linked }}
          point={onMark ? point : null}
        />
      ))}
      <ProposalList ripple={ripple} />
      <ManyList ripple={ripple} />
      <LeftList ripple={ripple} />
      <LaterList ripple={ripple} />
      <OverruledList ripple={ripple} />
      <LapsedList ripple={ripple} />
      <OutsideList ripple={ripple} />
    </>
  );
}

interface WaveProps {
  readonly name: string;
  readonly number: number;
  readonly changes: readonly ChangeView[];
  readonly linked: boolean;
  readonly point: Point | null;
}

/** One wave: what is alike in it as a group, the rest one by one. */
function Wave({ name, number, changes, linked, point }: WaveProps) {
  const parts = useMemo(() => partsOf(number, changes), [number, changes]);
  return (
    <section className={explainStyle.wave} aria-label={name}>
      <h3>
        {name} <span className="quiet">{writeCount(changes.length)}</span>
      </h3>
      <ul>
        {parts.map(({ group, rows }) =>
          group ? (
            <GroupRow
              key={groupKeyText(group)}
              group={group}
              causes={causesOf(rows)}
              onPoint={point ? (isOn) => point.onPoint(isOn ? rows.map(({ change }) => change) : []) : null}
            >
              <Rows {...{ rows, linked, point }} />
            </GroupRow>
          ) : (
            rows.map((row) => <ChangeRow key={rowKey(row)} {...row} {...{ linked, point }} />)
          ),
        )}
      </ul>
    </section>
  );
}

/** The rows of a group; of many the first, until all are asked for. */
function Rows({ rows, linked, point }: { rows: readonly Row[] } & Pick<WaveProps, 'linked' | 'point'>) {
  const [most, setMost] = useState(MOST_SHOWN);
  const left = rows.length - most;
  return (
    <>
      <ul>
        {rows.slice(0, most).map((row) => (
          <ChangeRow key={rowKey(row)} {...row} {...{ linked, point }} isAlike />
        ))}
      </ul>
      {left > 0 ? (
        <button
          type="button"
          className={clsx('plain', kitStyle.opens, style.waveMore)}
          onClick={() => setMost(most + MORE)}
        >
          Show{' '}
          {left > MORE ? `${writeCount(MORE)} more of ${writeCount(left)}` : `the other ${writeCount(left)}`}
        </button>
      ) : null}
    </>
  );
}

/** Rows that are shown at a time beyond the first. */
const MORE = 200;

const rowKey = ({ change }: Row): string => `${keyOf(change)} ${change.kind}`;

interface Part {
  /** `null`: too few are alike to be told as one. */
  readonly group: RippleGroup | null;
  readonly rows: readonly Row[];
}

function partsOf(number: number, changes: readonly ChangeView[]): Part[] {
  const rows = rowsOf(changes);
  const rowOf = new Map(rows.map((row) => [row.change, row]));
  const alike = groupedChanges(
    number,
    rows.map(({ change }) => change),
  );
  return alike.map(({ group, changes: own }) => ({
    group: group.records >= LEAST_ALIKE ? group : null,
    rows: own.flatMap((change) => rowOf.get(change) ?? []),
  }));
}

/** What all of them came from, once each. */
function causesOf(rows: readonly Row[]): readonly CellView[] {
  const causes = new Map(rows.flatMap(({ change }) => change.causes.map((cause) => [keyOf(cause), cause])));
  return [...causes.values()];
}
