import { fireEvent, render, screen } from '@testing-library/react';
import type { Explanation } from '@/core/verify';
import { ExplanationTable } from './explanation-table';

const member = (number: number, standing: string) => ({
  ...{ id: `m${number}`, title: `Loan ${number}`, standing, source: 0, value: null },
  ...{ order: null, through: null, exchanged: null, opens: false, reason: null, reasons: [] },
});
const explained = (standings: readonly string[]) =>
  ({
    record: { title: 'Silk' },
    members: standings.map((standing, at) => member(at + 1, standing)),
    own: [],
    sources: [{ name: 'Loans', total: standings.length }],
    counted: 0,
    words: 'count',
  }) as unknown as Explanation;
const titles = () => screen.getAllByText(/^Loan \d/).map(({ textContent }) => textContent);

test('those that count stand first, or on demand those that are left out', () => {
  render(
    <ExplanationTable
      explanation={explained(['leftOut', 'counts', 'leftOut', 'counts', 'counts', 'counts'])}
    />,
  );
  expect(titles().slice(0, 2)).toEqual(['Loan 2', 'Loan 4']);
  fireEvent.click(screen.getByRole('button', { name: 'left out first' }));
  expect(titles().slice(0, 3)).toEqual(['Loan 1', 'Loan 3', 'Loan 2']);
});

test('of a few nothing is turned round', () => {
  render(<ExplanationTable explanation={explained(['leftOut', 'counts'])} />);
  expect(screen.queryByRole('button')).toBeNull();
});
