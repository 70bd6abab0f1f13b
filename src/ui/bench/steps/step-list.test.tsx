import { galleries, uuid } from '@/core/testing/galleries';
import { fireEvent, render, screen } from '@testing-library/react';
import { useState } from 'react';
import { StepList } from './step-list';
import type { Step } from './steps';

const ROBES = uuid('1');
const STEPS: readonly Step[] = [
  { kind: 'edit', type: 'loan', id: ROBES, field: 'title', value: 'Gowns' },
  { kind: 'save' },
  { kind: 'day', day: '2027-03-02' },
  { kind: 'actor', person: 'ada' },
  { kind: 'delete', type: 'loan', id: ROBES },
];
const NAMES: Readonly<Record<string, string>> = { [ROBES]: 'Robes', ada: 'Ada' };
const model = galleries();

function Listed({ first }: { readonly first: readonly Step[] }) {
  const [steps, setSteps] = useState(first);
  return (
    <StepList
      {...{ model, steps }}
      nameOf={(id) => NAMES[id]}
      onChange={setSteps}
      onClose={() => undefined}
    />
  );
}
const told = () => screen.queryAllByRole('listitem').map(({ textContent }) => textContent);
const press = (name: string) => fireEvent.click(screen.getByRole('button', { name }));

test('what is staged is told in words, in its order', () => {
  render(<Listed first={STEPS} />);
  expect(told()).toEqual([
    'Title of Robes becomes Gowns',
    'Next save',
    'On 2 Mar 2027',
    'Ada acts',
    'Robes is deleted',
  ]);
});

test('a step is moved into the save before, and one is left out', () => {
  render(<Listed first={STEPS} />);
  for (let times = 0; times < 3; times += 1) press('Move Robes is deleted up');
  expect(told()[1]).toBe('Robes is deleted');
  press('Leave out: Next save');
  expect(told()).not.toContain('Next save');
  expect(told()).toHaveLength(4);
});

test('once all is left out that is said', () => {
  render(<Listed first={[{ kind: 'save' }]} />);
  press('Leave out: Next save');
  expect(told()).toEqual([]);
  expect(screen.getByText('Nothing is staged.')).toBeTruthy();
});
