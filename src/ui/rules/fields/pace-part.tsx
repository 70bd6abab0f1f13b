import { foundIn } from '@/core/values';
import type { Field, Pace, Timetable } from '@/core/model';
import { paceWords, WEEKDAYS } from '@/core/rules';
import { Input, InputNumber, Radio, Select } from 'antd';
import { Done, FormPart } from '@/ui/expression/part';
import style from './pace-part.module.css';

export interface PacePartProps {
  readonly pace: Pace;
  readonly isWrong: boolean;
  /** Yes/no fields of the record that may ask for it; none where the rule's type isn't known. */
  readonly asking: readonly Field[];
  /** Those that are offered; all where it isn't said. */
  readonly kinds?: readonly Kind[];
  readonly onChange: (pace: Pace) => void;
}

type Kind = 'withTheSave' | 'soonAfter' | 'timetable' | 'onRequest';

const kindOf = (pace: Pace): Kind => (typeof pace === 'string' ? pace : pace.kind);

const BEGINS: Record<Kind, Pace> = {
  withTheSave: 'withTheSave',
  soonAfter: 'soonAfter',
  timetable: { kind: 'timetable', every: 'day', at: '06:00' },
  onRequest: { kind: 'onRequest', field: null },
};

const KINDS: readonly { readonly value: Kind; readonly label: string; readonly note: string }[] = [
  { value: 'withTheSave', label: 'with the save', note: 'It is always up to date.' },
  {
    value: 'soonAfter',
    label: 'soon after',
    note: 'The save doesn’t wait for it; moments later it follows.',
  },
  { value: 'timetable', label: 'at set times', note: 'Until then the value says as of when it is.' },
  {
    value: 'onRequest',
    label: 'on request',
    note: 'By a button on the record, or when a yes/no field of it turns yes.',
  },
];

/** When a result is brought up to date. */
export function PacePart({ pace, isWrong, asking, kinds, onChange }: PacePartProps) {
  const said = paceWords(pace, (key) => asking.find((field) => field.key === key)?.name ?? key);
  const kind = kindOf(pace);
  return (
    <>
      <FormPart label="Pace" text={said.charAt(0).toUpperCase() + said.slice(1)} hint="" isWrong={isWrong}>
        {(close) => (
          <>
            <Radio.Group
              aria-label="Pace"
              value={kind}
              onChange={(event) => onChange(BEGINS[event.target.value as Kind])}
              options={KINDS.filter(({ value }) => !kinds || kinds.includes(value)).map(
                ({ value, label }) => ({
                  value,
                  label,
                }),
              )}
              orientation="vertical"
            />
            {kinds ? null : (
              <span className="quiet">{foundIn(KINDS, ({ value }) => value === kind).note}</span>
            )}
            {typeof pace !== 'string' && pace.kind === 'timetable' ? (
              <TimesOf timetable={pace} onChange={onChange} />
            ) : null}
            {typeof pace !== 'string' && pace.kind === 'onRequest' && asking.length > 0 ? (
              <label>
                Also when this turns yes{' '}
                <Select
                  aria-label="Field that asks for it"
                  value={pace.field ?? ''}
                  style={{ width: 200 }}
                  onChange={(field) => onChange({ kind: 'onRequest', field: field || null })}
                  options={[
                    { value: '', label: 'no field' },
                    ...asking.map(({ key, name }) => ({ value: key, label: name })),
                  ]}
                />
              </label>
            ) : null}
            <Done close={close} />
          </>
        )}
      </FormPart>
      .{' '}
    </>
  );
}

const EVERY: readonly { readonly value: Timetable['every']; readonly label: string }[] = [
  { value: 'hour', label: 'every hour' },
  { value: 'day', label: 'every day' },
  { value: 'week', label: 'every week' },
  { value: 'month', label: 'every month' },
];

/** Set times, by the clocks of the workspace. */
function TimesOf({ timetable, onChange }: { timetable: Timetable; onChange: (pace: Pace) => void }) {
  const { every, at, weekday = 1, day = 1 } = timetable;
  const change = (next: Partial<Timetable>) => {
    const { every: often, at: time, ...on } = { ...timetable, ...next };
    onChange({
      ...{ kind: 'timetable', every: often, at: time },
      ...(often === 'week' ? { weekday: on.weekday ?? 1 } : {}),
      ...(often === 'month' ? { day: on.day ?? 1 } : {}),
    });
  };
  return (
    <span className={style.paceTimes}>
      <Select
        aria-label="How often"
        value={every}
        style={{ width: 120 }}
        onChange={(chosen) => change({ every: chosen })}
        options={[...EVERY]}
      />
      {every === 'week' ? (
        <Select
          aria-label="Day of the week"
          value={weekday}
          style={{ width: 120 }}
          onChange={(chosen) => change({ weekday: chosen })}
          options={WEEKDAYS.map((label, index) => ({ value: index + 1, label }))}
        />
      ) : null}
      {every === 'month' ? (
        <label>
          on day{' '}
          <InputNumber
            aria-label="Day of the month"
            min={1}
            max={28}
            precision={0}
            value={day}
            style={{ width: 64 }}
            onChange={(chosen) => change({ day: chosen ?? 1 })}
          />
        </label>
      ) : null}
      {every === 'hour' ? (
        <label>
          at minute{' '}
          <InputNumber
            aria-label="Minute"
            min={0}
            max={59}
            precision={0}
            value={Number(at.slice(3)) || 0}
            style={{ width: 64 }}
            onChange={(chosen) => change({ at: `00:${String(chosen ?? 0).padStart(2, '0')}` })}
          />
        </label>
      ) : (
        <label>
          at{' '}
          <Input
            aria-label="Time of day"
            value={at}
            placeholder="06:00"
            style={{ width: 72 }}
            onChange={(event) => change({ at: event.target.value.trim() })}
          />
        </label>
      )}
    </span>
  );
}
