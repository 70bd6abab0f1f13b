import { existsSync } from 'node:fs';
import { HELP_PAGES, helpFor } from './pages';

test('each place has its own page', () => {
  const title = (place: string) => helpFor(place).title;
  expect(
    [
      '/today',
      '/requests',
      '/requests/7/sheet',
      '/rules',
      '/rules/review',
      '/rules/new',
      '/rules/7',
      '/bench',
    ].map(title),
  ).toEqual([
    'Today',
    'Requests',
    'Acceptance sheet',
    'Rules',
    'Review',
    'Writing a rule',
    'A rule',
    'Bench',
  ]);
  expect(
    [
      '/records',
      '/records/loan',
      '/records/loan/7',
      '/records/loan/import',
      '/model',
      '/ledger/4',
      '/compare',
    ].map(title),
  ).toEqual(['Records', 'Records', 'A record', 'Taking in a file', 'Model', 'Ledger', 'Comparing']);
});

test('its picture is there', () => {
  for (const { picture } of HELP_PAGES)
    if (picture)
      expect([picture[0], existsSync(`docs/screenshots/${picture[0]}.png`)]).toEqual([picture[0], true]);
});
