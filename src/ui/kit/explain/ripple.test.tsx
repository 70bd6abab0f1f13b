import { changeOf } from '@/core/testing/ripples';
import { fireEvent, render, screen, within } from '@testing-library/react';
import { App } from 'antd';
import { Ripple } from './ripple';
import { ManyList } from './ripple-lists';

const loans = (many: number, given: object = {}) =>
  Array.from({ length: many }, (_, at) =>
    changeOf({
      ...{ id: String(at), title: `Loan ${at}`, before: 'Elsie', after: 'Callum' },
      causes: [
        { type: 'exhibition', id: 'e', title: 'Silk', field: 'coordinator', fieldName: 'Coordinator' },
      ],
      ...given,
    }),
  );
const show = (changes: ReturnType<typeof loans>) =>
  render(
    <App>
      <Ripple ripple={{ waves: [{ number: 1, changes }] }} />
    </App>,
  );
const wave = () => screen.getByRole('region', { name: /^First wave/ });

test('changes that are alike stand in a line, which opens into its records', () => {
  show(loans(6));
  const line = within(wave()).getByRole('button', { name: /Coordinator of 6 Loans/ });
  expect(wave().textContent).toContain('because of Coordinator of Silk. By “Coordinator of loans”.');
  expect(wave().textContent).not.toContain('Loan 3');
  fireEvent.click(line);
  expect(line.getAttribute('aria-expanded')).toBe('true');
  expect(wave().textContent).toContain('Loan 3');
});

test('a few stand one by one', () => {
  show(loans(3));
  expect(within(wave()).queryByRole('button')).toBeNull();
  expect(wave().textContent).toContain('Coordinator of Loan 2');
});

test('thousands are opened part by part, and searched', () => {
  show(loans(3_000));
  fireEvent.click(within(wave()).getByRole('button', { name: /Coordinator of 3,000 Loans/ }));
  expect(within(wave()).getByRole('button', { name: 'Show 200 more of 2,976' })).toBeTruthy();
  fireEvent.change(screen.getByRole('searchbox', { name: 'Search what changed' }), {
    target: { value: 'loan 2999 callum' },
  });
  expect(wave().textContent).toContain('Coordinator of Loan 2999');
  expect(wave().textContent).not.toContain('3,000');
  fireEvent.change(screen.getByRole('searchbox', { name: 'Search what changed' }), {
    target: { value: 'nobody' },
  });
  expect(screen.getByText('Nothing of it holds that.')).toBeTruthy();
});

test('what was written as a set is told by number, and how much of it something else came before', () => {
  const rule = { id: 'r', name: 'Site of loans', kind: 'cascade', pace: null } as const;
  const many = [
    { type: 'loan', plural: 'Loans', fieldName: 'Coordinator', records: 4_000, overruled: 1_200, rule },
    { type: 'loan', plural: 'Loans', fieldName: 'Phase', records: 7_000, overruled: 0, rule },
  ];
  render(<ManyList ripple={{ waves: [], many }} />);
  const items = screen.getAllByRole('listitem').map(({ textContent }) => textContent);
  expect(items).toEqual([
    'Coordinator of 4,000 LoansBy “Site of loans”. On 1,200 more something else comes first: it is overruled there.',
    'Phase of 7,000 LoansBy “Site of loans”.',
  ]);
});
