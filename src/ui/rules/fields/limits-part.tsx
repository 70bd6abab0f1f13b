import { type Limits, limitsWords } from '@/core/rules';
import { Button } from 'antd';
import { DecimalInput } from './decimal-input';
import { Done, FormPart } from '@/ui/expression/part';
import rulesStyle from '@/ui/rules/rules.module.css';

export interface LimitsPartProps {
  readonly limits: Limits;
  readonly isWrong: boolean;
  /** Given `null` where they are left out again. */
  readonly onChange: (limits: Limits | null) => void;
}

/** Bounds of the result: what lies beyond becomes the bound. */
export function LimitsPart({ limits, isWrong, onChange }: LimitsPartProps) {
  const bound = (end: 'least' | 'most', label: string) => (
    <DecimalInput
      label={label}
      digits={limits[end] ?? null}
      placeholder="no limit"
      onChange={(to) => onChange({ ...limits, [end]: to })}
    />
  );
  return (
    <>
      Held to{' '}
      <FormPart
        label="Limits of the result"
        text={limitsWords(limits) || null}
        hint="limits"
        isWrong={isWrong}
        startsOpen={limitsWords(limits) === ''}
      >
        {(close) => (
          <>
            {bound('least', 'At least')}
            {bound('most', 'At most')}
            <span className="quiet">A result beyond a limit becomes the limit.</span>
            <span className={rulesStyle.partActions}>
              <Button size="small" onClick={() => onChange(null)}>
                Leave out
              </Button>
              <Done close={close} />
            </span>
          </>
        )}
      </FormPart>
      .{' '}
    </>
  );
}
