import { roundingWords } from '@/core/rules';
import type { Rounding, RoundingMode } from '@/core/values';
import { Checkbox, InputNumber, Radio } from 'antd';
import { DecimalInput } from './decimal-input';
import { Done, FormPart } from '@/ui/expression/part';

/** How a result is rounded before it is fitted to its field. */
export function RoundingPart({
  rounding,
  places,
  onChange,
}: {
  readonly rounding: Rounding | null;
  /** Places of the field; `null` where the result isn't written as it is, `any` of whatever field. */
  readonly places: number | null | 'any';
  readonly onChange: (rounding: Rounding | null) => void;
}) {
  const own =
    places === 'any'
      ? 'to the field’s own places'
      : places === null
        ? 'not at all'
        : places === 0
          ? 'to whole numbers'
          : `to the field’s ${places} places`;
  const modes: { value: RoundingMode; label: string }[] = [
    { value: 'nearest', label: 'to the nearest (halves away from zero)' },
    { value: 'up', label: 'up' },
    { value: 'down', label: 'down' },
  ];
  return (
    <>
      Rounded{' '}
      <FormPart label="Rounding" text={rounding ? roundingWords(rounding) : own} hint="">
        {(close) => (
          <>
            <Radio.Group
              aria-label="Rounding"
              value={rounding?.mode ?? 'field'}
              onChange={(event) => {
                const mode = event.target.value as RoundingMode | 'field';
                onChange(mode === 'field' ? null : { places: 0, ...rounding, mode });
              }}
              options={[{ value: 'field', label: own }, ...modes]}
              orientation="vertical"
            />
            {rounding ? <StepOf {...{ rounding, onChange }} /> : null}
            {rounding && rounding.step === undefined ? (
              <label>
                Decimal places{' '}
                <InputNumber
                  min={0}
                  max={typeof places === 'number' ? places : 20}
                  precision={0}
                  value={rounding.places}
                  onChange={(chosen) => onChange({ ...rounding, places: chosen ?? 0 })}
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

/** To a multiple of a step instead of to places. */
function StepOf({
  rounding,
  onChange,
}: {
  rounding: Rounding;
  onChange: (rounding: Rounding | null) => void;
}) {
  const { step, ...places } = rounding;
  return (
    <>
      <Checkbox
        checked={step !== undefined}
        onChange={(event) => onChange(event.target.checked ? { ...places, step: '5' } : places)}
      >
        To a multiple of a step
      </Checkbox>
      {step === undefined ? null : (
        <DecimalInput
          label="Step"
          digits={step}
          placeholder="such as 50"
          onChange={(to) => onChange({ ...places, step: to ?? '' })}
        />
      )}
    </>
  );
}
