import { act, fireEvent, render, renderHook, screen, waitFor } from '@testing-library/react';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { App } from 'antd';
import type { ReactNode } from 'react';
import { ApiProblem, problemOf, serverAway } from '@/ui/api/problem';
import { More } from './more';
import { MoveButtons } from './move-buttons';
import { ProblemNotice } from './problems/problem-notice';
import { progressWords } from './progress-bar';
import { StateTag } from './state-tag';
import { useTask } from './hooks/use-task';
import { counted } from './values/counted';
import { sameWire } from './values/same-wire';
import { ValuePair } from './values/value-pair';

test('one problem is told as it is, several one by one, none not at all', () => {
  const { rerender, container } = render(<ProblemNotice error={null} />);
  expect(container.textContent).toBe('');
  const errors = ['“Due” isn’t a date.', '“Fee” isn’t a number.'].map((message) => ({
    code: 'value.range' as const,
    message,
  }));
  rerender(<ProblemNotice error={new ApiProblem(422, 'value.range', 'Two', 'Two problems.', errors)} />);
  expect(screen.getByRole('alert').querySelectorAll('p')).toHaveLength(2);
  expect(screen.queryByText('Two problems.')).toBeNull();
});

test('that the server is away is told until it answers again', async () => {
  let isUp = false;
  globalThis.fetch = () => Promise.resolve({ ok: isUp } as Response);
  const client = new QueryClient();
  const notice = (
    <QueryClientProvider client={client}>
      <ProblemNotice error={serverAway()} />
    </QueryClientProvider>
  );
  render(notice);
  expect(screen.getByRole('alert').textContent).toContain('what you typed is still here');
  await waitFor(() => expect(client.isFetching()).toBe(0));
  isUp = true;
  await act(() => client.refetchQueries());
  expect((await screen.findByRole('status')).textContent).toContain('The server answers again');
  expect(screen.queryByRole('alert')).toBeNull();
});

test('an answer without problem details still says something', () => {
  expect(problemOf(500, null)).toMatchObject({
    status: 500,
    code: 'internal',
    message: 'Try again.',
    errors: [],
  });
  expect(problemOf(409, { code: 'rule.kept', detail: 'It is kept.' })).toMatchObject({
    code: 'rule.kept',
    message: 'It is kept.',
  });
});

test('a list that goes on has a way on, and one that doesn’t has none', () => {
  const fetchNextPage = jest.fn(async () => undefined);
  const on = { label: 'Show more', isFetchingNextPage: false, fetchNextPage };
  const { rerender } = render(<More {...on} hasNextPage />);
  fireEvent.click(screen.getByRole('button', { name: 'Show more' }));
  expect(fetchNextPage).toHaveBeenCalledTimes(1);
  rerender(<More {...on} hasNextPage={false} />);
  expect(screen.queryByRole('button')).toBeNull();
});

test('things are moved by one, the first not up and the last not down', () => {
  const onChange = jest.fn();
  const items = ['a', 'b', 'c'];
  const { rerender } = render(<MoveButtons items={items} index={1} name="b" onChange={onChange} />);
  fireEvent.click(screen.getByRole('button', { name: 'Move b up' }));
  fireEvent.click(screen.getByRole('button', { name: 'Move b down' }));
  expect(onChange.mock.calls).toEqual([[['b', 'a', 'c']], [['a', 'c', 'b']]]);
  rerender(<MoveButtons items={items} index={0} name="a" onChange={onChange} />);
  expect(screen.getByRole('button', { name: 'Move a up' })).toHaveProperty('disabled', true);
  rerender(<MoveButtons items={items} index={2} name="c" onChange={onChange} />);
  expect(screen.getByRole('button', { name: 'Move c down' })).toHaveProperty('disabled', true);
});

test('a rule’s state is a word; a pilot says that it is one', () => {
  const { rerender } = render(<StateTag state="paused" />);
  expect(screen.getByText('Paused')).toBeTruthy();
  rerender(<StateTag state="live" isPilot />);
  expect(screen.getByText('Pilot')).toBeTruthy();
});

test('before and after are told apart to those who don’t see them', () => {
  const { container } = render(
    <ValuePair before={{ wire: '1', text: '1' }} after={{ wire: '2', text: '2' }} />,
  );
  expect(container.textContent).toBe('before: 1after: 2');
});

test('long work says where it stands', () => {
  expect(progressWords(null, true)).toBe('Reading …');
  expect(progressWords({ stage: 'reading', rows: 12_500 }, true)).toBe('Read 12,500 rows …');
  expect(progressWords({ stage: 'writing' }, false)).toBe('Working out what it would write …');
  expect(progressWords({ stage: 'writing' }, true)).toBe('Writing …');
  expect(progressWords({ stage: 'rules', done: 3, of: 40 }, true)).toBe(
    'Working rules out: 3 of 40 groups done …',
  );
});

test('numbers, days and values as they are said and compared', () => {
  expect([counted(1, 'record', 'records'), counted(1_250, 'record', 'records')]).toEqual([
    '1 record',
    '1,250 records',
  ]);
  expect(sameWire(undefined, null)).toBe(true);
  expect(sameWire(['a'], ['a'])).toBe(true);
  expect(sameWire('', null)).toBe(false);
});

describe('a task', () => {
  const client = new QueryClient();
  const within = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={client}>
      <App>{children}</App>
    </QueryClientProvider>
  );

  test('is busy until it is done, and then goes on', async () => {
    const { result } = renderHook(useTask, { wrapper: within });
    let finish: (answer: string) => void = () => undefined;
    const onDone = jest.fn();
    let running: Promise<unknown> = Promise.resolve();
    act(() => {
      running = result.current.run(() => new Promise<string>((resolve) => (finish = resolve)), null, onDone);
    });
    await waitFor(() => expect(result.current.isBusy).toBe(true));
    await act(async () => {
      finish('made');
      await running;
    });
    await waitFor(() => expect([result.current.isBusy, result.current.error]).toEqual([false, null]));
    expect(onDone).toHaveBeenCalledWith('made');
  });

  test('refused, it stays where it is and says why; another try begins afresh', async () => {
    const { result } = renderHook(useTask, { wrapper: within });
    const onDone = jest.fn();
    await act(() => result.current.run(() => Promise.reject(new Error('Nobody answers.')), null, onDone));
    await waitFor(() =>
      expect([result.current.isBusy, result.current.error?.message]).toEqual([false, 'Nobody answers.']),
    );
    expect(onDone).not.toHaveBeenCalled();
    await act(() => result.current.run(async () => 1, null, onDone));
    await waitFor(() => expect(result.current.error).toBeNull());
  });
});
