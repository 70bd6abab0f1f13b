'use client';

import { type Model, typeIn } from '@/core/model';
import type { FamilyData, WireRecord } from '@/core/verify';
import { Button } from 'antd';
import type { Rehearsed } from '@/ui/workers/rule-worker';
import type { Step } from '@/ui/bench/steps/steps';
import style from './in-bin.module.css';

interface InBinProps {
  readonly model: Model;
  readonly data: Rehearsed;
  readonly steps: readonly Step[];
  readonly family: FamilyData;
  readonly onRestore: (record: WireRecord) => void;
}

/** What was put into the bin here, to be brought back with what went along. */
export function InBin({ model, data: { gone }, steps, family, onRestore }: InBinProps) {
  const left = new Set(gone);
  const put = new Set(
    steps.flatMap((step) => (step.kind === 'delete' && left.has(step.id) ? [step.id] : [])),
  );
  const records = put.size === 0 ? [] : family.records.filter(({ id }) => put.has(id));
  if (records.length === 0) return null;
  return (
    <section className={style.benchBin} aria-label="In the bin">
      <h3>In the bin</h3>
      <ul>
        {records.map((record) => (
          <li key={record.id}>
            {String(record.values[typeIn(model, record.type).title] ?? '')}{' '}
            <span className="quiet">{typeIn(model, record.type).name}</span>
            <Button size="small" onClick={() => onRestore(record)}>
              Restore
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
