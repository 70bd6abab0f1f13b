import { hasTrait, lastIn } from '@/core/values';
import { type Model, typeIn } from '@/core/model';
import { changeName, type ChangeTest } from '@/core/rules';
import { CloseOutlined, PlusOutlined } from '@ant-design/icons';
import { Button, Select } from 'antd';
import { ValueInput } from '@/ui/kit/values/value-input';
import style from './change-tests.module.css';

export interface ChangeTestsProps {
  readonly model: Model;
  readonly type: string;
  readonly tests: readonly ChangeTest[];
  readonly nameOf: (id: string) => string | undefined;
  readonly onChange: (tests: readonly ChangeTest[]) => void;
}

const KINDS: readonly ChangeTest['kind'][] = ['changed', 'became', 'stoppedBeing', 'rose', 'fell'];

/** Which changes cascade: one of them is enough. */
export function ChangeTests({ model, type, tests, nameOf, onChange }: ChangeTestsProps) {
  const { fields } = typeIn(model, type);
  const put = (at: number, test: ChangeTest) =>
    onChange(tests.map((old, index) => (index === at ? test : old)));
  return (
    <div className={style.changeTests} data-width="middle" role="group" aria-label="Which change cascades">
      {tests.map((test, at) => {
        const field = model.field(type, test.field);
        const kinds = KINDS.filter(
          (kind) => (kind !== 'rose' && kind !== 'fell') || (field && hasTrait(field.type.kind, 'rising')),
        );
        return (
          <div key={at} className={style.changeTest}>
            <Select
              aria-label={`Field that is watched, ${at + 1}`}
              value={test.field}
              showSearch={{ optionFilterProp: 'label' }}
              style={{ width: 150 }}
              options={fields.map(({ key, name }) => ({ value: key, label: name }))}
              onChange={(key: string) => put(at, { kind: 'changed', field: key })}
            />
            <Select
              aria-label={`What happens to it, ${at + 1}`}
              value={test.kind}
              style={{ width: 110 }}
              options={kinds.map((kind) => ({ value: kind, label: changeName(kind) }))}
              onChange={(kind: ChangeTest['kind']) =>
                put(
                  at,
                  kind === 'became' || kind === 'stoppedBeing'
                    ? { kind, field: test.field, value: 'value' in test ? test.value : null }
                    : { kind, field: test.field },
                )
              }
            />
            {'value' in test && field ? (
              <span className={style.changeValue}>
                <ValueInput
                  type={field.type}
                  value={test.value}
                  title={typeof test.value === 'string' ? nameOf(test.value) : undefined}
                  label={`Value of it, ${at + 1}`}
                  onChange={(value) => put(at, { ...test, value })}
                />
              </span>
            ) : null}
            {tests.length > 1 ? (
              <Button
                type="text"
                size="small"
                aria-label={`Leave change ${at + 1} out`}
                icon={<CloseOutlined />}
                onClick={() => onChange(tests.filter((_, index) => index !== at))}
              />
            ) : null}
          </div>
        );
      })}
      <Button
        size="small"
        type="text"
        icon={<PlusOutlined />}
        onClick={() => onChange([...tests, { kind: 'changed', field: lastIn(tests).field }])}
      >
        Or another change
      </Button>
    </div>
  );
}
