import type { Expression } from '@/core/expression';
import { relativeWords } from '@/core/values';
import { fireEvent, render, screen, within } from '@testing-library/react';
import { useState } from 'react';
import { RelativeChoice } from './relative-date';

interface Listed {
  readonly value: string | number;
  readonly options: readonly { readonly value: string | number; readonly label: string }[];
  readonly onChange: (value: string | number) => void;
  readonly 'aria-label': string;
}

// A list of the browser's own: how the library draws its lists needs a real browser.
jest.mock('antd', () => ({
  ...jest.requireActual<object>('antd'),
  Select: ({ options, value, onChange, 'aria-label': label }: Listed) => (
    <select
      aria-label={label}
      value={value}
      onChange={({ target }) => onChange(options.find((one) => String(one.value) === target.value)!.value)}
    >
      {options.map((one) => (
        <option key={one.value} value={one.value}>
          {one.label}
        </option>
      ))}
    </select>
  ),
}));

type Day = Extract<Expression, { kind: 'day' }>;

function Choice({ first }: { first: Day | null }) {
  const [day, setDay] = useState(first);
  return (
    <>
      <RelativeChoice day={day} onChange={setDay} />
      <output>{day ? relativeWords(day) : 'a certain date'}</output>
    </>
  );
}

const said = () => screen.getByRole('status').textContent;

/** Chooses an item of a list. */
function choose(label: string, item: string) {
  const list = screen.getByRole('combobox', { name: label });
  fireEvent.change(list, {
    target: { value: within(list).getByRole<HTMLOptionElement>('option', { name: item }).value },
  });
}

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
