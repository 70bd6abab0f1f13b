import { fireEvent, render, screen } from '@testing-library/react';
import { useState } from 'react';
import type { Joining } from '@/core/rules';
import { JoiningPart } from '@/ui/rules/fields/joining-part';
import { PercentPart } from './percent-part';

/** Nothing has a size here, so that nothing of it changes. */
class Still implements ResizeObserver {
  observe(): void {}
  unobserve(): void {}
  disconnect(): void {}
}
globalThis.ResizeObserver ??= Still;

function Percent() {
  const [percent, change] = useState(90);
  return <PercentPart percent={percent} isWrong={false} onChange={change} />;
}

function Joined() {
  const [joining, change] = useState<Joining>({ separator: ', ' });
  return <JoiningPart joining={joining} isWrong={false} onChange={change} />;
}

test('under how many lie is typed in its place in the sentence; emptied it stays what it was', () => {
  render(<Percent />);
  fireEvent.click(screen.getByRole('button', { name: /90 in a hundred/ }));
  const field = screen.getByRole('spinbutton');
  fireEvent.change(field, { target: { value: '75' } });
  expect(screen.getByRole('button', { name: /75 in a hundred/ })).toBeTruthy();
  fireEvent.change(field, { target: { value: '' } });
  fireEvent.blur(field);
  expect(screen.getByRole('button', { name: /75 in a hundred/ })).toBeTruthy();
});

test('texts are joined from the last on by a press, and the sentence says so', () => {
  render(<Joined />);
  fireEvent.click(screen.getByRole('button', { name: /between/ }));
  fireEvent.click(screen.getByRole('checkbox', { name: /^From the last to the first/ }));
  expect(screen.getByRole('button', { name: /from the last to the first/ })).toBeTruthy();
  fireEvent.change(screen.getByRole('spinbutton'), { target: { value: '3' } });
  expect(screen.getByRole('button', { name: /from the last to the first, 3 at most/ })).toBeTruthy();
});
