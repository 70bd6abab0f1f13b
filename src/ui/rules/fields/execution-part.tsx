import type { Model } from '@/core/model';
import { type Way, type WayBy, wayName } from '@/core/rules';
import { Radio, Select } from 'antd';
import { optionsOf } from '@/ui/rules/mapping/assignment-table';
import { Done, FormPart } from '@/ui/expression/part';

export interface WayPartProps {
  readonly label: string;
  readonly model: Model;
  /** The type by whose options it may go. */
  readonly type: string;
  readonly way: WayBy;
  readonly text: string;
  readonly isWrong: boolean;
  /** What each way means here. */
  readonly notes: Readonly<Record<Way, string>>;
  readonly onChange: (way: WayBy) => void;
}

const ALL: readonly Way[] = ['directly', 'proposal', 'both', 'not'];
const BY = 'by';

/** How something is done: the same way for all, or by an option of the record. */
export function WayPart({ label, model, type, way, text, isWrong, notes, onChange }: WayPartProps) {
  const over = model.type(type)!.fields.filter(({ type: { kind } }) => kind === 'choice' || kind === 'yesNo');
  const usual = typeof way === 'string' ? way : way.otherwise;
  const by = (field: string): WayBy => ({
    ...{ field, otherwise: usual },
    rows: optionsOf(over.find(({ key }) => key === field)!).map(({ value }) => ({ from: value, way: usual })),
  });
  return (
    <FormPart label={label} text={text} hint="" isWrong={isWrong}>
      {(close) => (
        <>
          <Radio.Group
            aria-label={label}
            value={typeof way === 'string' ? way : BY}
            orientation="vertical"
            options={[
              ...ALL.map((one) => ({ value: one, label: `${wayName(one)}: ${notes[one]}` })),
              ...(over.length > 0 ? [{ value: BY, label: 'by an option of the record' }] : []),
            ]}
            onChange={(event) => {
              const chosen = event.target.value as Way | typeof BY;
              onChange(chosen === BY ? by(over[0]!.key) : chosen);
            }}
          />
          {typeof way === 'string' ? null : (
            <WayTable {...{ label, way, over, onChange }} onField={(field) => onChange(by(field))} />
          )}
          <Done close={close} />
        </>
      )}
    </FormPart>
  );
}

function WayTable({
  label,
  way,
  over,
  onChange,
  onField,
}: {
  label: string;
  way: Exclude<WayBy, Way>;
  over: Parameters<typeof optionsOf>[0][];
  onChange: (way: WayBy) => void;
  onField: (field: string) => void;
}) {
  const field = over.find(({ key }) => key === way.field);
  const names = new Map((field ? optionsOf(field) : []).map(({ value, name }) => [String(value), name]));
  const choices = ALL.map((one) => ({ value: one, label: wayName(one) }));
  return (
    <table className="way-table">
      <thead>
        <tr>
          <th scope="col">
            <Select
              aria-label={`${label}: by which field`}
              value={way.field}
              style={{ width: 160 }}
              options={over.map(({ key, name }) => ({ value: key, label: name }))}
              onChange={onField}
            />
          </th>
          <th scope="col">how</th>
        </tr>
      </thead>
      <tbody>
        {way.rows.map(({ from, way: to }, at) => (
          <tr key={String(from)}>
            <th scope="row">{names.get(String(from)) ?? String(from)}</th>
            <td>
              <Select
                aria-label={`${label}: ${names.get(String(from)) ?? String(from)}`}
                value={to}
                style={{ width: 200 }}
                options={choices}
                onChange={(next: Way) =>
                  onChange({
                    ...way,
                    rows: way.rows.map((row, index) => (index === at ? { ...row, way: next } : row)),
                  })
                }
              />
            </td>
          </tr>
        ))}
        <tr>
          <th scope="row">otherwise</th>
          <td>
            <Select
              aria-label={`${label}: otherwise`}
              value={way.otherwise}
              style={{ width: 200 }}
              options={choices}
              onChange={(next: Way) => onChange({ ...way, otherwise: next })}
            />
          </td>
        </tr>
      </tbody>
    </table>
  );
}
