import { begunOn, dropBegun, dropEntry, keepBegun, type Written } from './begun';
import { newDraft } from './drafts';

const written = (name: string): Written => ({ draft: newDraft('rollUp'), name, note: '' });

beforeEach(() => localStorage.clear());

test('what is begun is kept by workspace and rule, the latest first, until it is dropped', () => {
  jest.useFakeTimers({ now: new Date('2027-01-01T00:00:00Z') });
  expect(keepBegun('wrenfield', null, 'a', written('One'))).toBe(true);
  jest.setSystemTime(new Date('2027-01-02T00:00:00Z'));
  keepBegun('wrenfield', null, 'b', written('Two'));
  keepBegun('wrenfield', 'r1', 'c', written('Of a rule'));
  keepBegun('other', null, 'd', written('Elsewhere'));
  jest.useRealTimers();
  expect(begunOn('wrenfield', null).map(({ name, at }) => [name, at])).toEqual([
    ['Two', '2027-01-02T00:00:00.000Z'],
    ['One', '2027-01-01T00:00:00.000Z'],
  ]);
  expect(begunOn('wrenfield', 'r1').map(({ draft }) => draft.kind)).toEqual(['rollUp']);
  dropBegun('wrenfield', null, 'b');
  begunOn('wrenfield', null).forEach(dropEntry);
  expect(begunOn('wrenfield', null)).toEqual([]);
});

test('what isn’t a rule being written is no offer, and a browser that keeps nothing says so', () => {
  localStorage.setItem('oikon.begun.1.wrenfield.new.x', '{');
  expect(begunOn('wrenfield', null)).toEqual([]);
  const set = jest.spyOn(Storage.prototype, 'setItem').mockImplementation(() => {
    throw new DOMException('full', 'QuotaExceededError');
  });
  expect(keepBegun('wrenfield', null, 'a', written('One'))).toBe(false);
  set.mockRestore();
});
