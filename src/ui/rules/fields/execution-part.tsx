import { foundIn, firstIn } from '@/core/values';
import { type Model, typeIn } from '@/core/model';
import { type ExecutionMode, type ExecutionModeBy, executionModeName } from '@/core/rules';
import { Radio, Select } from 'antd';
import { optionsOf } from '@/ui/rules/mapping/map-over';
import { Done, FormPart } from '@/ui/expression/part';
import style from './execution-part.module.css';

export interface ExecutionPartProps {
  readonly label: string;
  readonly model: Model;
  /** The type by whose options it may go. */
  readonly type: string;
  readonly way: ExecutionModeBy;
  readonly text: string;
  readonly isWrong: boolean;
  /** What each way means here. */
  readonly notes: Readonly<Record<ExecutionMode, string>>;
  readonly onChange: (way: ExecutionModeBy) => void;
}

const ALL: readonly ExecutionMode[] = ['directly', 'proposal', 'both', 'not'];
const BY = 'by';

/** How something is done: the same way for all, or by an option of the record. */
export function ExecutionPart({
  label,
  model,
  type,
  way,
  text,
  isWrong,
  notes,
  onChange,
}: ExecutionPartProps) {
  const over = typeIn(model, type).fields.filter(
    ({ type: { kind } }) => kind === 'choice' || kind === 'yesNo',
  );
  const usual = typeof way === 'string' ? way : way.otherwise;
  const by = (field: string): ExecutionModeBy => ({
    ...{ field, otherwise: usual },
    rows: optionsOf(foundIn(over, ({ key }) => key === field)).map(({ value }) => ({
      from: value,
      way: usual,
    })),
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
              ...ALL.map((one) => ({ value: one, label: `${executionModeName(one)}: ${notes[one]}` })),
              ...(over.length > 0 ? [{ value: BY, label: 'by an option of the record' }] : []),
            ]}
            onChange={(event) => {
              const chosen = event.target.value as ExecutionMode | typeof BY;
              onChange(chosen === BY ? by(firstIn(over).key) : chosen);
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
  way: Exclude<ExecutionModeBy, ExecutionMode>;
  over: Parameters<typeof optionsOf>[0][];
  onChange: (way: ExecutionModeBy) => void;
  onField: (field: string) => void;
}) {
  const field = over.find(({ key }) => key === way.field);
  const names = new Map((field ? optionsOf(field) : []).map(({ value, name }) => [String(value), name]));
  const choices = ALL.map((one) => ({ value: one, label: executionModeName(one) }));
  return (
    <table className={style.wayTable}>
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
                onChange={(next: ExecutionMode) =>
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
              onChange={(next: ExecutionMode) => onChange({ ...way, otherwise: next })}
            />
          </td>
        </tr>
      </tbody>
    </table>
  );
}
