import { fireEvent, render, screen } from '@testing-library/react';
import { useState } from 'react';
import { type Form, PLAIN_FORM, type ValueType, type WireValue, writeBy } from '@/core/values';
import { Screen } from '@/ui/testing/screen';
import { DayChoice } from './date-input';
import { ValueInput } from './value-input';

function Field({
  type,
  first,
  onValue,
}: {
  type: ValueType;
  first: WireValue;
  onValue: (value: WireValue) => void;
}) {
  const [value, setValue] = useState(first);
  return (
    <ValueInput
      type={type}
      value={value}
      label="Fee"
      onChange={(next) => {
        setValue(next);
        onValue(next);
      }}
    />
  );
}

const field = (type: ValueType, first: WireValue = null) => {
  const onValue = jest.fn();
  render(
    <Screen>
      <Field {...{ type, first, onValue }} />
    </Screen>,
  );
  const input = screen.getByRole<HTMLInputElement>('textbox', { name: 'Fee' });
  return { onValue, input, type: (text: string) => fireEvent.change(input, { target: { value: text } }) };
};

const COMMA: Form = { decimal: ',', grouping: '.', dates: 'dayFirst' };
const GBP: ValueType = { kind: 'money', currency: 'GBP' };

beforeEach(() =>
  jest.useFakeTimers({ now: new Date('2026-09-15T12:00:00Z'), doNotFake: ['queueMicrotask'] }),
);
afterEach(() => {
  jest.useRealTimers();
  writeBy(() => PLAIN_FORM);
});

test('an amount keeps what is typed on screen, hands on its digits, and stands as it was read once one leaves it', () => {
  const { onValue, input, type } = field(GBP, { amount: '12500.00', currency: 'GBP' });
  expect(input.value).toBe('12,500.00');
  type('1250.5');
  expect(onValue).toHaveBeenLastCalledWith({ amount: '1250.50', currency: 'GBP' });
  expect(input.value).toBe('1250.5');
  fireEvent.blur(input);
  expect(input.value).toBe('1,250.50');
  type('');
  expect(onValue).toHaveBeenLastCalledWith(null);
});

test('a decimal comma isn’t taken for a mark between thousands', () => {
  const { onValue, input, type } = field(GBP);
  type('42,5');
  expect(onValue).toHaveBeenLastCalledWith({
    typed: '42,5',
    why: expect.stringContaining('write 42.5') as string,
  });
  fireEvent.blur(input);
  expect(input.value).toBe('42,5');
});

test('whoever writes a comma types and reads it', () => {
  writeBy(() => COMMA);
  const { onValue, input, type } = field(GBP, { amount: '1250.50', currency: 'GBP' });
  expect(input.value).toBe('1.250,50');
  type('42,5');
  expect(onValue).toHaveBeenLastCalledWith({ amount: '42.50', currency: 'GBP' });
});

test('a day is typed as people write it; Enter takes it and sends nothing; arrows move it', () => {
  const { onValue, input, type } = field({ kind: 'date' });
  type('tomorrow');
  expect(onValue).toHaveBeenLastCalledWith('2026-09-16');
  expect(fireEvent.keyDown(input, { key: 'Enter' })).toBe(false);
  expect(input.value).toBe('16 Sep 2026');
  fireEvent.keyDown(input, { key: 'ArrowUp' });
  expect(onValue).toHaveBeenLastCalledWith('2026-09-17');
  type('31.02.');
  fireEvent.blur(input);
  expect(input.value).toBe('31.02.');
  expect(onValue).toHaveBeenLastCalledWith({
    typed: '31.02.',
    why: expect.stringContaining('Feb 2026 has 28 days') as string,
  });
});

test('a day that something hangs on is taken when it is meant, not at each key; what is none is told', () => {
  const onChange = jest.fn();
  render(
    <Screen>
      <DayChoice label="Day" day="2026-09-15" onChange={onChange} />
    </Screen>,
  );
  const input = screen.getByRole<HTMLInputElement>('textbox', { name: 'Day' });
  fireEvent.change(input, { target: { value: '1.1' } });
  expect(onChange).not.toHaveBeenCalled();
  fireEvent.change(input, { target: { value: '1.10.' } });
  fireEvent.keyDown(input, { key: 'Enter' });
  expect(onChange).toHaveBeenLastCalledWith('2026-10-01');
  fireEvent.change(input, { target: { value: '32.10.' } });
  fireEvent.blur(input);
  expect(screen.getByRole('alert').textContent).toContain('Oct 2026 has 31 days');
  expect(onChange).toHaveBeenCalledTimes(1);
});
