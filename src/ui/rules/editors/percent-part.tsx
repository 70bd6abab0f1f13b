import { percentWords } from '@/core/rules';
import { InputNumber } from 'antd';
import { Done, FormPart } from '@/ui/expression/part';

interface PercentPartProps {
  readonly percent: number;
  readonly isWrong: boolean;
  readonly onChange: (percent: number) => void;
}

/** Of a percentile: under how many in a hundred lie. */
export function PercentPart({ percent, isWrong, onChange }: PercentPartProps) {
  return (
    <>
      Under it lie{' '}
      <FormPart label="How many lie under it" text={percentWords(percent)} hint="" isWrong={isWrong}>
        {(close) => (
          <>
            <label>
              Of a hundred, under it lie{' '}
              <InputNumber
                min={1}
                max={99}
                precision={0}
                value={percent}
                onChange={(next) => {
                  if (next !== null) onChange(next);
                }}
              />
            </label>
            <p className="quiet">
              90 gives the value that nine in ten don’t exceed; 50 the one in the middle.
            </p>
            <Done close={close} />
          </>
        )}
      </FormPart>
      .{' '}
    </>
  );
}
