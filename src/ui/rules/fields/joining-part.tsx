import { type Joining, joiningWords } from '@/core/rules';
import { Checkbox, Input, InputNumber } from 'antd';
import { Done, FormPart } from '@/ui/expression/part';

export interface JoiningPartProps {
  readonly joining: Joining;
  readonly isWrong: boolean;
  readonly onChange: (joining: Joining) => void;
}

const MOST = 1_000;

/** How texts are joined: what stands between them, whether each stands once, and how many are shown. */
export function JoiningPart({ joining, isWrong, onChange }: JoiningPartProps) {
  const { separator, isDistinct, isFromLast, most } = joining;
  return (
    <>
      With{' '}
      <FormPart label="How texts are joined" text={joiningWords(joining)} hint="" isWrong={isWrong}>
        {(close) => (
          <>
            <label>
              Between them{' '}
              <Input
                value={separator}
                maxLength={20}
                style={{ width: 120 }}
                onChange={(event) => onChange({ ...joining, separator: event.target.value })}
              />
            </label>
            <Checkbox
              checked={isDistinct === true}
              onChange={(event) => onChange({ ...joining, isDistinct: event.target.checked })}
            >
              Each text once, in the order of the texts
            </Checkbox>
            <Checkbox
              checked={isFromLast === true}
              onChange={(event) => onChange({ ...joining, isFromLast: event.target.checked })}
            >
              From the last to the first: the largest or latest come first
            </Checkbox>
            <label>
              At most{' '}
              <InputNumber
                min={1}
                max={MOST}
                precision={0}
                value={most ?? null}
                placeholder="all"
                onChange={(next) => onChange({ ...joining, most: next })}
              />{' '}
              <span className="quiet">the others are told as “and 7 more”</span>
            </label>
            <Done close={close} />
          </>
        )}
      </FormPart>
      .{' '}
    </>
  );
}
