import type { Expression } from '@/core/expression';
import { relativeWords } from '@/core/values';
import type * as NativeSelects from '@/ui/testing/native-select';
import { choose } from '@/ui/testing/native-select';
import { fireEvent, render, screen } from '@testing-library/react';
import { useState } from 'react';
import { RelativeChoice } from './relative-date';

jest.mock('antd', () =>
  jest.requireActual<typeof NativeSelects>('@/ui/testing/native-select').withNativeSelect(),
);

type Day = Extract<Expression, { kind: 'day' }>;

function Choice({ first, hasHours = false }: { first: Day | null; hasHours?: boolean }) {
  const [day, setDay] = useState(first);
  return (
    <>
      <RelativeChoice {...{ day, hasHours }} onChange={setDay} />
      <output>{day ? relativeWords(day) : 'a certain date'}</output>
    </>
  );
}

const said = () => screen.getByRole('status').textContent;

test('a relative date is begun, changed part by part, and left for a certain one', () => {
  render(<Choice first={null} />);
  fireEvent.click(screen.getByRole('button', { name: 'or relative to today' }));
  expect(said()).toBe('6 months before today');
  choose('Unit', 'working days');
  expect(said()).toBe('6 working days before today');
  fireEvent.change(screen.getByRole('spinbutton', { name: 'How many' }), { target: { value: '1' } });
  choose('Before or after', 'after');
  expect(said()).toBe('1 working day after today');
  choose('From', 'the Monday of this week');
  expect(said()).toBe('1 working day after the Monday of this week');
  fireEvent.click(screen.getByRole('button', { name: 'A certain date' }));
  expect(said()).toBe('a certain date');
});

test('a financial year says when it begins; counted from elsewhere that is let go', () => {
  render(<Choice first={{ kind: 'day', from: 'today', plus: 0, unit: 'day' }} />);
  choose('From', 'the first of this financial year');
  expect(said()).toBe('the first of this financial year (since 1 January)');
  choose('Month in which the financial year begins', 'April');
  fireEvent.change(screen.getByRole('spinbutton', { name: 'Day on which the financial year begins' }), {
    target: { value: '6' },
  });
  expect(said()).toBe('the first of this financial year (since 6 April)');
  choose('From', 'today');
  expect(said()).toBe('today');
  expect(screen.queryByRole('spinbutton', { name: /financial year/ })).toBeNull();
});

test('of a moment hours are counted, from when the day began; of a date they aren’t offered', () => {
  const { unmount } = render(
    <Choice first={{ kind: 'day', from: 'today', plus: -36, unit: 'day' }} hasHours />,
  );
  choose('Unit', 'hours');
  expect(said()).toBe('36 hours before today began');
  unmount();
  render(<Choice first={{ kind: 'day', from: 'today', plus: -36, unit: 'day' }} />);
  expect(screen.queryByRole('option', { name: 'hours' })).toBeNull();
});
