import { fireEvent, screen, within } from '@testing-library/react';

interface Listed {
  readonly id?: string;
  readonly value: string | number | null;
  readonly options: readonly { readonly value: string | number; readonly label: string }[];
  readonly onChange: (value: string | number) => void;
  readonly disabled?: boolean;
  readonly 'aria-label'?: string;
}

/** A list of the browser's own. */
const NativeSelect = ({ options, value, onChange, id, disabled, 'aria-label': label }: Listed) => (
  <select
    {...{ id, disabled, value: value ?? '' }}
    aria-label={label}
    onChange={({ target }) => onChange(options.find((one) => String(one.value) === target.value)!.value)}
  >
    {options.map((one) => (
      <option key={one.value} value={one.value}>
        {one.label}
      </option>
    ))}
  </select>
);

/** The library with lists of the browser's own: how it draws its lists needs a real browser. */
export const withNativeSelect = () => ({ ...jest.requireActual<object>('antd'), Select: NativeSelect });

/** Chooses an item of such a list. */
export function choose(label: string, item: string): void {
  const list = screen.getByRole('combobox', { name: label });
  fireEvent.change(list, {
    target: { value: within(list).getByRole<HTMLOptionElement>('option', { name: item }).value },
  });
}
