'use client';

import { sameData, firstIn, foundIn, writeCount } from '@/core/values';
import { type Field, type Link as ModelLink, type Model, typeIn } from '@/core/model';
import { Button, Select } from 'antd';
import { Dialog } from '@/ui/kit/dialog';
import dynamic from 'next/dynamic';
import { useState } from 'react';
import { useRecordPages } from '@/ui/api/queries';
import { Loading } from '@/ui/kit/loading';
import { More } from '@/ui/kit/more';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { pointsOf, shownOverTime } from './trend-points';
import { wordsFor } from '@/ui/records/words';
import kitStyle from '@/ui/kit/kit.module.css';
import style from './trend.module.css';

const TrendChart = dynamic(() => import('./trend-chart').then((module) => module.TrendChart), {
  ssr: false,
  loading: () => <Loading what="the chart" />,
});

/** Records that a trend reads at once. */
const AT_ONCE = 500;

/** The way to a chart of dated children over time; only where there is a date and something to draw. */
export function Trend({ model, link, parent }: { model: Model; link: ModelLink; parent: string }) {
  const [isOpen, setOpen] = useState(false);
  const fields = typeIn(model, link.type).fields;
  const dates = fields.filter(({ type }) => type.kind === 'date');
  const values = fields.filter(shownOverTime);
  if (dates.length === 0 || values.length === 0) return null;
  return (
    <>
      <Button
        size="small"
        type="text"
        onClick={() => setOpen(true)}
        aria-label={`${link.field.otherEnd} over time`}
      >
        Over time
      </Button>
      {isOpen ? (
        <TrendDialog {...{ model, link, parent, dates, values }} onClose={() => setOpen(false)} />
      ) : null}
    </>
  );
}

interface TrendDialogProps {
  readonly model: Model;
  readonly link: ModelLink;
  readonly parent: string;
  readonly dates: readonly Field[];
  readonly values: readonly Field[];
  readonly onClose: () => void;
}

function TrendDialog({ model, link, parent, dates, values, onClose }: TrendDialogProps) {
  const type = typeIn(model, link.type);
  const [date, setDate] = useState(firstIn(dates).key);
  // Several marks are read together; amounts of different kinds aren't.
  const [chosen, setChosen] = useState<readonly string[]>(() => {
    const first = firstIn(values);
    const alike = values.filter((field) => sameData(field.type, first.type));
    return (first.type.kind === 'choice' ? alike : [first]).map(({ key }) => key);
  });
  const { data, error, hasNextPage, isFetchingNextPage, fetchNextPage } = useRecordPages(link.type, {
    ...{ filter: { [link.link]: parent }, sort: date, limit: AT_ONCE },
    condition: {
      kind: 'presence',
      operator: 'isNotEmpty',
      operand: { kind: 'field', route: [], field: date },
    },
  });
  const fields = values.filter(({ key }) => chosen.includes(key));
  const dateField = foundIn(dates, ({ key }) => key === date);
  const records = data?.pages.flatMap((page) => page.records) ?? [];
  return (
    <Dialog open title={`${link.field.otherEnd} over time`} width={860} footer={null} onCancel={onClose}>
      <div className={style.trendChoice}>
        <label>
          By
          <Select
            aria-label="Date"
            value={date}
            options={dates.map(({ key, name }) => ({ value: key, label: name }))}
            onChange={setDate}
            style={{ width: 200 }}
          />
        </label>
        <label>
          Shows
          <Select
            aria-label="Fields that are shown"
            mode="multiple"
            showSearch={{ optionFilterProp: 'label' }}
            value={chosen as string[]}
            options={values.map(({ key, name }) => ({ value: key, label: name }))}
            onChange={setChosen}
            style={{ minWidth: 320 }}
          />
        </label>
      </div>
      <ProblemNotice error={error} />
      {data && records.length === 0 ? (
        <p className="quiet">No {type.name.toLowerCase()} has a date there yet.</p>
      ) : null}
      {records.length > 0 && fields.length > 0 ? (
        <>
          <TrendChart
            lines={fields.map((field) => ({ field, points: pointsOf(records, dateField, field) }))}
          />
          <div className={style.trendTable}>
            <table className={kitStyle.members}>
              <thead>
                <tr>
                  <th scope="col">{dateField.name}</th>
                  <th scope="col">{type.name}</th>
                  {fields.map(({ key, name }) => (
                    <th key={key} scope="col">
                      {name}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {records.map((record) => (
                  <tr key={record.id}>
                    <td>{wordsFor(dateField, record.values[date], {})}</td>
                    <td>{String(record.values[type.title])}</td>
                    {fields.map((field) => (
                      <td key={field.key}>{wordsFor(field, record.values[field.key], {})}</td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <More
            {...{ hasNextPage, isFetchingNextPage, fetchNextPage }}
            label={`${writeCount(records.length)} by that date are shown: read the next ${AT_ONCE}`}
          />
        </>
      ) : null}
    </Dialog>
  );
}
