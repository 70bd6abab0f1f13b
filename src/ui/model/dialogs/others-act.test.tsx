import { fireEvent, render, screen } from '@testing-library/react';
import { useState } from 'react';
import { OthersAct } from './others-act';

function Choosing({ names }: { names: readonly string[] }) {
  const [isChosen, choose] = useState(false);
  const reacting = names.map((name) => ({ name }));
  return (
    <>
      <OthersAct reacting={reacting} isChosen={isChosen} onChoose={choose} />
      <p>{isChosen ? 'acted on' : 'left'}</p>
    </>
  );
}

test('it names who would act, and is chosen by a press', () => {
  render(<Choosing names={['Agree', 'Opens']} />);
  const box = screen.getByRole('checkbox', {
    name: 'Let “Agree”, “Opens” act on what this changes. Otherwise they act only on what comes from now on.',
  });
  expect(screen.getByText('left')).toBeTruthy();
  fireEvent.click(box);
  expect(screen.getByText('acted on')).toBeTruthy();
});

test('where nothing reacts there is nothing to choose', () => {
  render(<Choosing names={[]} />);
  expect(screen.queryByRole('checkbox')).toBeNull();
});
