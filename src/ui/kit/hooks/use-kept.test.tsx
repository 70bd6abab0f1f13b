/** @jest-environment jsdom */
import { act, renderHook } from '@testing-library/react';
import { isTexts, useKept } from './use-kept';

const NOTHING: readonly string[] = [];
const kept = () => renderHook(() => useKept('oikon.test', NOTHING, isTexts)).result;
afterEach(() => localStorage.clear());

test('a choice is remembered, by all who ask for it, and given up again', () => {
  const [one, other] = [kept(), kept()];
  act(() => one.current[1](['a', 'b']));
  expect(other.current[0]).toEqual(['a', 'b']);
  expect(kept().current[0]).toEqual(['a', 'b']);
  act(() => other.current[1](null));
  expect(one.current[0]).toBe(NOTHING);
});

test.each(['not JSON', '{"a":1}', '[1]'])(
  'what something else wrote there is as to begin with: %s',
  (text) => {
    localStorage.setItem('oikon.test', text);
    expect(kept().current[0]).toBe(NOTHING);
  },
);
