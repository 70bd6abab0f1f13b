'use client';

import type { Named, Use } from '@/core/verify';
import { writeCount } from '@/core/values';
import { grouped } from '@/core/grouped';
import { Select } from 'antd';
import { useState } from 'react';
import { useUses } from '@/ui/api/queries';
import { Dialog } from '@/ui/kit/dialog';
import { Link } from '@/ui/kit/navigation';
import { Loading } from '@/ui/kit/loading';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import style from './where-used-dialog.module.css';

export interface WhereUsedProps {
  readonly named: Named;
  /** What it is called. */
  readonly title: string;
  /** Of a choice its options, of which one can be asked for. */
  readonly options?: readonly { readonly key: string; readonly name: string }[];
  readonly onClose: () => void;
}

const HEADS: Readonly<Record<Use['where'], string>> = {
  rule: 'Rules',
  selection: 'Selections',
  section: 'Sections of pages',
  list: 'Lists',
  proof: 'Proofs',
  request: 'Requests',
};

/** Where something is named, before it is changed or removed. */
export function WhereUsedDialog({ named, title, options = [], onClose }: WhereUsedProps) {
  const [option, setOption] = useState<string | null>(null);
  const asked: Named =
    named.kind === 'field' && option !== null ? { ...named, kind: 'option', option } : named;
  const { data, error } = useUses(asked);
  return (
    <Dialog open width={680} title={`Where ${title} is used`} footer={null} onCancel={onClose}>
      {options.length > 0 ? (
        <label className={style.option}>
          <span className="quiet">All of it, or one option</span>
          <Select
            allowClear
            aria-label="Option"
            placeholder="all of it"
            value={option}
            options={options.map(({ key, name }) => ({ value: key, label: name }))}
            onChange={(value?: string) => setOption(value ?? null)}
          />
        </label>
      ) : null}
      <ProblemNotice error={error} />
      {data ? (
        <Uses uses={data.uses} onClose={onClose} />
      ) : error ? null : (
        <Loading what="where it is used" />
      )}
    </Dialog>
  );
}

function Uses({ uses, onClose }: { uses: readonly Use[]; onClose: () => void }) {
  if (uses.length === 0) return <p>Nowhere: no rule, selection, section, list, proof or request names it.</p>;
  return [...grouped(uses, ({ where }) => where)].map(([where, own]) => {
    const head = HEADS[own[0]?.where ?? 'rule'];
    return (
      <section key={where} aria-label={head}>
        <h3 className={style.head}>
          {head} <span className="quiet">{writeCount(own.length)}</span>
        </h3>
        <ul className={style.uses}>
          {own.map((use) => (
            <li key={use.id}>
              <UseName use={use} onClose={onClose} /> <span className="quiet">{use.says}</span>
            </li>
          ))}
        </ul>
      </section>
    );
  });
}

function UseName({ use: { where, id, name }, onClose }: { use: Use; onClose: () => void }) {
  const path = where === 'rule' ? `/rules/${id}` : where === 'request' ? `/requests/${id}` : null;
  return path === null ? (
    <strong>{name}</strong>
  ) : (
    <Link href={path} onClick={onClose}>
      {name}
    </Link>
  );
}
