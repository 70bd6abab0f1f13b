import { Checkbox } from 'antd';

/** Whether rules that react act on what is filled; nothing where there are none. */
export function OthersAct({
  reacting,
  isChosen,
  onChoose,
}: {
  readonly reacting: readonly { readonly name: string }[];
  readonly isChosen: boolean;
  readonly onChoose: (isChosen: boolean) => void;
}) {
  if (reacting.length === 0) return null;
  const names = reacting.map(({ name }) => `“${name}”`).join(', ');
  const they = reacting.length === 1 ? 'it acts' : 'they act';
  return (
    <Checkbox checked={isChosen} onChange={(event) => onChoose(event.target.checked)}>
      {`Let ${names} act on what this changes. Otherwise ${they} only on what comes from now on.`}
    </Checkbox>
  );
}
