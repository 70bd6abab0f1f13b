import { lastIn, type Problem, type ValueType } from '@/core/values';
import { type CompareOperator, operatorWords } from '@/core/expression';
import type { Field } from '@/core/model';
import { comparisonsFor, compileMap, mapWords, type MapRow, type ResultMap } from '@/core/rules';
import { CloseOutlined, PlusOutlined } from '@ant-design/icons';
import { Button, Radio, Select } from 'antd';
import { ValueInput } from '@/ui/kit/values/value-input';
import { Done, FormPart } from '@/ui/expression/part';
import mappingStyle from './mapping.module.css';
import rulesStyle from '@/ui/rules/rules.module.css';

export interface MapPartProps {
  readonly map: ResultMap;
  /** What the rule gives, and the field that it is written into; `null` while they aren't chosen. */
  readonly result: ValueType | null;
  readonly target: Field | null;
  readonly problems: readonly Problem[];
  /** Given `null` where the result itself is written again. */
  readonly onChange: (map: ResultMap | null) => void;
}

/** What is written for which result. */
export function MapPart({ map, result, target, problems, onChange }: MapPartProps) {
  if (!result || !target)
    return <span className={rulesStyle.partFixed}>a table, once the field is chosen</span>;
  const compiled = compileMap(map, result, target);
  const words = compiled.map ? mapWords(target, result, compiled.map) : null;
  return (
    <FormPart
      label="What is written for which result"
      text={words}
      hint="what is written for which result"
      isWrong={problems.some(({ place }) => place?.startsWith('map'))}
      startsOpen={words === null}
    >
      {(close) => <MapForm {...{ map, result, target, onChange, close }} />}
    </FormPart>
  );
}

interface FormProps {
  readonly map: ResultMap;
  readonly result: ValueType;
  readonly target: Field;
  readonly onChange: MapPartProps['onChange'];
  readonly close: () => void;
}

function MapForm({ map, result, target, onChange, close }: FormProps) {
  const { rows, otherwise } = map;
  const change = (at: number, part: Partial<MapRow>) =>
    onChange({ ...map, rows: rows.map((row, index) => (index === at ? { ...row, ...part } : row)) });
  const isAsItIs = otherwise.kind === 'asItIs';
  return (
    <div className={mappingStyle.mapForm} data-width="wide">
      <table>
        <thead>
          <tr>
            <th scope="col" colSpan={2}>
              When the result
            </th>
            <th scope="col">{target.name} becomes</th>
            <th scope="col">
              <span className="visually-hidden">Leave out</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map(({ operator, than, writes }, at) => (
            <tr key={at}>
              <td>
                <Select
                  aria-label={`Test of row ${at + 1}`}
                  value={operator}
                  popupMatchSelectWidth={false}
                  options={comparisonsFor(result).map((entry) => ({
                    value: entry.operator as CompareOperator,
                    label: operatorWords(entry.operator, result.kind),
                  }))}
                  onChange={(next) => change(at, { operator: next })}
                />
              </td>
              <td>
                <ValueInput
                  type={result}
                  value={than}
                  label={`Result of row ${at + 1}`}
                  onChange={(next) => change(at, { than: next })}
                />
              </td>
              <td>
                <ValueInput
                  type={target.type}
                  value={writes}
                  label={`What row ${at + 1} writes`}
                  onChange={(next) => change(at, { writes: next })}
                />
              </td>
              <td>
                <Button
                  type="text"
                  size="small"
                  aria-label={`Leave row ${at + 1} out`}
                  icon={<CloseOutlined />}
                  disabled={rows.length === 1}
                  onClick={() => onChange({ ...map, rows: rows.filter((_, index) => index !== at) })}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Button
        size="small"
        type="text"
        className={mappingStyle.mapAdd}
        icon={<PlusOutlined />}
        onClick={() => onChange({ ...map, rows: [...rows, rowAfter(rows)] })}
      >
        Another row
      </Button>
      <Radio.Group
        aria-label="Otherwise"
        value={otherwise.kind}
        orientation="vertical"
        options={[
          { value: 'writes', label: 'Otherwise it becomes' },
          { value: 'asItIs', label: 'Otherwise it is left as it is' },
        ]}
        onChange={(event) =>
          onChange({
            ...map,
            otherwise: event.target.value === 'asItIs' ? { kind: 'asItIs' } : { kind: 'writes', value: null },
          })
        }
      />
      {isAsItIs ? (
        <span className="quiet">
          The rule acts when its result changes. People may edit {target.name} too, and what they enter stands
          until then.
        </span>
      ) : (
        <ValueInput
          type={target.type}
          value={otherwise.value}
          label="What is written otherwise"
          onChange={(value) => onChange({ ...map, otherwise: { kind: 'writes', value } })}
        />
      )}
      <span className={rulesStyle.partActions}>
        <Button size="small" onClick={() => onChange(null)}>
          Write the result itself
        </Button>
        <Done close={close} />
      </span>
    </div>
  );
}

const rowAfter = (rows: readonly MapRow[]): MapRow => ({ ...lastIn(rows), than: null, writes: null });
