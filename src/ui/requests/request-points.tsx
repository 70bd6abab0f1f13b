'use client';

import type { RequestedRule, RequestPoint } from '@/core/verify';
import { DeleteOutlined, PlusOutlined } from '@ant-design/icons';
import { Button, Input, Select } from 'antd';
import requestsStyle from './requests.module.css';
import style from './request-points.module.css';

interface RequestPointsProps {
  readonly points: readonly RequestPoint[];
  /** Which of the stored points are shown. */
  readonly shown: readonly boolean[];
  /** Those of the request’s rules, of those chosen and not saved yet too. */
  readonly proofs: readonly Pick<RequestedRule['proofs'][number], 'id' | 'name'>[];
  readonly onChange: (points: readonly RequestPoint[]) => void;
}

/** What must be true, point by point, each with the proofs that show it. */
export function RequestPoints({ points, shown, proofs, onChange }: RequestPointsProps) {
  const change = (at: number, part: Partial<RequestPoint>) =>
    onChange(points.map((point, other) => (other === at ? { ...point, ...part } : point)));
  return (
    <div className={requestsStyle.requestPart}>
      <ol className={style.requestPoints}>
        {points.map((point, at) => (
          <li key={at}>
            <Input
              aria-label={`Point ${at + 1}`}
              maxLength={500}
              value={point.text}
              status={point.text.trim() === '' ? 'error' : undefined}
              placeholder="Loans that were declined don’t count"
              onChange={(event) => change(at, { text: event.target.value })}
            />
            <Button
              type="text"
              icon={<DeleteOutlined />}
              aria-label={`Remove point ${at + 1}`}
              onClick={() => onChange(points.filter((_, other) => other !== at))}
            />
            <Select
              mode="multiple"
              aria-label={`Proofs that show point ${at + 1}`}
              placeholder={
                proofs.length > 0 ? 'Which proofs show it?' : 'Its rules have no proofs yet: keep some first'
              }
              disabled={proofs.length === 0}
              value={[...point.proofs]}
              showSearch={{ optionFilterProp: 'label' }}
              options={proofs.map(({ id, name }) => ({ value: id, label: name }))}
              onChange={(to: string[]) => change(at, { proofs: to })}
              style={{ width: '100%' }}
            />
            <span className={shown[at] ? requestsStyle.requestMet : 'quiet'}>
              {shown[at] ? 'Shown' : 'Open'}
            </span>
          </li>
        ))}
      </ol>
      {points.length === 0 ? (
        <p className="quiet">
          Say point by point what must be true, so that whoever asked can agree to each: also what must not
          happen.
        </p>
      ) : null}
      <Button
        size="small"
        icon={<PlusOutlined />}
        onClick={() => onChange([...points, { text: '', proofs: [] }])}
      >
        Add a point
      </Button>
    </div>
  );
}
