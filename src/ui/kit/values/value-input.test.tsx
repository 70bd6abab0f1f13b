import { fireEvent, render, screen } from '@testing-library/react';
import { useState } from 'react';
import type { ValueType, WireValue } from '@/core/values';
import { digitsOf, ValueInput } from './value-input';

test('digits come out of what people type and paste', () => {
  expect(['12,500.00', ' 12 500', '+7', '\u22123.5', '12\u00a0500', 'much'].map(digitsOf)).toEqual([
    '12500.00',
    '12500',
    '7',
    '-3.5',
    '12500',
    'much',
  ]);
});

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

test('an amount keeps what is typed on screen and cascades its digits, empty when cleared', () => {
  const onValue = jest.fn();
  render(
    <Field
      type={{ kind: 'money', currency: 'GBP' }}
      first={{ amount: '5.00', currency: 'GBP' }}
      onValue={onValue}
    />,
  );
  const input = screen.getByRole<HTMLInputElement>('textbox', { name: 'Fee' });
  fireEvent.change(input, { target: { value: '1,250.5' } });
  expect(onValue).toHaveBeenLastCalledWith({ amount: '1250.5', currency: 'GBP' });
  expect(input.value).toBe('1,250.5');
  fireEvent.change(input, { target: { value: '' } });
  expect(onValue).toHaveBeenLastCalledWith(null);
});

test('text that isn’t a number is cascaded as it is, so that it can be told', () => {
  const onValue = jest.fn();
  render(<Field type={{ kind: 'number', scale: 0 }} first={null} onValue={onValue} />);
  fireEvent.change(screen.getByRole('textbox', { name: 'Fee' }), { target: { value: 'twelve' } });
  expect(onValue).toHaveBeenLastCalledWith('twelve');
});
