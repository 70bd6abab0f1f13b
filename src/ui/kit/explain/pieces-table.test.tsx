import { render, screen, within } from '@testing-library/react';
import type { FormulaView } from '@/core/verify';
import { PiecesTable } from './pieces-table';

const source = (title: string, standing: 'leads' | 'behind' | 'givesNothing', text: string) => ({
  ...{ type: 'loan', id: title, title, standing, problem: null },
  value: { wire: text, text },
});
const formula = (sources: ReturnType<typeof source>[], more = 0): FormulaView => ({
  ...{ text: '', applies: true, pieces: [] },
  several: { plural: 'Loans', sources, more },
});

test('of several that cascade to a record it says which comes first, and what the others would give', () => {
  render(
    <PiecesTable
      formula={formula([source('Pots', 'leads', 'In talks'), source('Kites', 'givesNothing', '')], 7)}
    />,
  );
  const [, pots, kites] = screen.getAllByRole('row') as [HTMLElement, HTMLElement, HTMLElement];
  expect(within(pots).getByText('In talks')).toBeTruthy();
  expect(within(pots).getByText('comes first')).toBeTruthy();
  expect(within(kites).getByText('has nothing to give')).toBeTruthy();
  expect(screen.getByText('7 more come after these.')).toBeTruthy();
});

test('where none does it says that people may enter it', () => {
  render(<PiecesTable formula={formula([])} />);
  expect(screen.getByText(/people may enter it/)).toBeTruthy();
});
