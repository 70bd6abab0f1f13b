import { foundIn } from '@/core/values';
import { type Field, type Model, typeIn } from '@/core/model';
import { type AssignedValue } from '@/core/rules';
import { CloseOutlined, PlusOutlined } from '@ant-design/icons';
import { Button, Radio, Select } from 'antd';
import { ValueInput } from '@/ui/kit/values/value-input';
import { Done, FormPart, MenuPart } from '@/ui/expression/part';
import mappingStyle from './mapping.module.css';
import rulesStyle from '@/ui/rules/rules.module.css';

/** Another way to say what is taken. */
export const Other = ({
  choices,
  onChoose,
  name,
}: {
  choices: Parameters<typeof MenuPart>[0]['choices'];
  onChoose: (key: string) => void;
  name: string;
}) => (
  <MenuPart label={`Something else for ${name}`} text="…" hint="" choices={choices} onChoose={onChoose} />
);

export const optionsOf = ({
  type,
}: Field): readonly { readonly value: string | boolean; readonly name: string }[] =>
  type.kind === 'choice'
    ? type.options.map(({ key, name }) => ({ value: key, name }))
    : [
        { value: true, name: 'yes' },
        { value: false, name: 'no' },
      ];

export const mapOver = (field: Field): AssignedValue => ({
  ...{ kind: 'map', field: field.key, otherwise: { kind: 'asItIs' } },
  rows: optionsOf(field).map(({ value }) => ({ from: value, to: null })),
});

interface MapOverProps extends Pick<AssignedProps, 'model' | 'source' | 'target' | 'isWrong' | 'onChange'> {
  readonly value: Extract<AssignedValue, { kind: 'map' }>;
  readonly text: string | null;
}

/** A table of both choices: each option of one with what it becomes in the other. */
export function MapOver({ model, source, target, value, text, isWrong, onChange }: MapOverProps) {
  const { fields } = typeIn(model, source);
  const over = fields.filter(({ type }) => type.kind === 'choice' || type.kind === 'yesNo');
  const field = over.find(({ key }) => key === value.field);
  const options = field ? optionsOf(field) : [];
  const used = new Set(value.rows.map(({ from }) => from));
  const missing = options.find((option) => !used.has(option.value));
  return (
    <FormPart
      label={`Table for ${target.name}`}
      text={text}
      hint="a table"
      isWrong={isWrong}
      startsOpen={value.rows.every(({ to }) => to === null)}
    >
      {(close) => (
        <div className={mappingStyle.mapForm} data-width="wide">
          <table>
            <thead>
              <tr>
                <th scope="col">
                  <Select
                    aria-label="Choice that says what is taken"
                    value={value.field}
                    style={{ width: 140 }}
                    options={over.map(({ key, name }) => ({ value: key, label: name }))}
                    onChange={(key: string) => onChange(mapOver(foundIn(over, (one) => one.key === key)))}
                  />
                </th>
                <th scope="col">{target.name} becomes</th>
                <th scope="col">
                  <span className="visually-hidden">Leave out</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {value.rows.map(({ from, to }, at) => {
                const name = options.find((option) => option.value === from)?.name ?? String(from);
                return (
                  <tr key={String(from)}>
                    <th scope="row">{name}</th>
                    <td>
                      <ValueInput
                        type={target.type}
                        value={to}
                        label={`What ${name} becomes`}
                        onChange={(next) =>
                          onChange({
                            ...value,
                            rows: value.rows.map((row, index) => (index === at ? { ...row, to: next } : row)),
                          })
                        }
                      />
                    </td>
                    <td>
                      <Button
                        type="text"
                        size="small"
                        aria-label={`Leave ${name} out`}
                        icon={<CloseOutlined />}
                        disabled={value.rows.length === 1}
                        onClick={() =>
                          onChange({ ...value, rows: value.rows.filter((_, index) => index !== at) })
                        }
                      />
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
          {missing ? (
            <Button
              size="small"
              type="text"
              className={mappingStyle.mapAdd}
              icon={<PlusOutlined />}
              onClick={() => onChange({ ...value, rows: [...value.rows, { from: missing.value, to: null }] })}
            >
              Also {missing.name}
            </Button>
          ) : null}
          <Radio.Group
            aria-label="Otherwise"
            value={value.otherwise.kind}
            orientation="vertical"
            options={[
              { value: 'asItIs', label: 'Otherwise it is left as it is' },
              { value: 'writes', label: 'Otherwise it becomes' },
            ]}
            onChange={(event) =>
              onChange({
                ...value,
                otherwise:
                  event.target.value === 'asItIs' ? { kind: 'asItIs' } : { kind: 'writes', value: null },
              })
            }
          />
          {value.otherwise.kind === 'writes' ? (
            <ValueInput
              type={target.type}
              value={value.otherwise.value}
              label="What is written otherwise"
              onChange={(next) => onChange({ ...value, otherwise: { kind: 'writes', value: next } })}
            />
          ) : null}
          <span className={rulesStyle.partActions}>
            <Done close={close} />
          </span>
        </div>
      )}
    </FormPart>
  );
}

export interface AssignedProps {
  readonly model: Model;
  readonly source: string;
  readonly recipient: string;
  /** The type of the records across which it goes; left out where there are none. */
  readonly via?: string | null;
  readonly isInStep: boolean;
  readonly target: Field;
  readonly value: AssignedValue | null;
  readonly isWrong: boolean;
  readonly nameOf: (id: string) => string | undefined;
  readonly onChange: (value: AssignedValue | null) => void;
}
