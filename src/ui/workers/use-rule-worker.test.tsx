/** @jest-environment jsdom */
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, renderHook } from '@testing-library/react';
import type { ReactNode } from 'react';
import { useRuleWorker } from './use-rule-worker';

jest.mock('./the-worker', () => ({
  modelData: (model: object) => model,
  serialize: jest.fn(),
  theWorker: jest.fn(),
}));

const family = () => ({
  root: { type: 'loan', id: 'a' },
  members: ['a'],
  records: [],
  complete: [],
  names: {},
});
const rules = (names: readonly string[]) => ({
  rules: names.map((name) => ({
    id: name,
    name,
    state: 'live',
    definition: {},
    liveDefinition: null,
    pilot: null,
  })),
});

test('what is asked for again and is no other leaves the worker as it is open; another answer opens it anew', () => {
  const client = new QueryClient({ defaultOptions: { queries: { enabled: false } } });
  const answered = (names: readonly string[]) => {
    client.setQueryData(['families', 'kept'], family());
    client.setQueryData(['types'], { types: [], settledDay: '2026-12-02' });
    client.setQueryData(['people'], { people: [{ id: 'p', name: 'Ines' }] });
    client.setQueryData(['rules'], rules(names));
  };
  answered(['Total']);
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={client}>{children}</QueryClientProvider>
  );
  const { result, rerender } = renderHook(() => useRuleWorker('loan', 'a', 'kept'), { wrapper });
  const { ruleWorker: first } = result.current;
  expect(first).not.toBeNull();
  act(() => answered(['Total']));
  rerender();
  expect(result.current.ruleWorker).toBe(first);
  act(() => answered(['Total', 'Count']));
  rerender();
  expect(result.current.ruleWorker?.key).not.toBe(first?.key);
});
