import type { InstallationEventView } from '@/core/api';
import { eventWords } from './event-words';

const event = (
  kind: InstallationEventView['kind'],
  data: InstallationEventView['data'] = {},
): InstallationEventView => ({
  ...{
    id: '1',
    at: '2027-03-01T12:00:00Z',
    person: 'Ada Brook',
    kind,
    workspace: 'trial',
    name: 'Trial',
    data,
  },
});

test.each<[InstallationEventView, string]>([
  [event('made'), 'made “Trial”'],
  [event('copied', { copyOf: 'wrenfield' }), 'made “Trial” as a copy'],
  [event('renamed', { before: 'Old' }), 'renamed “Old” to “Trial”'],
  [event('removed'), 'removed “Trial” with all that was in it'],
  [event('imported', { people: [] }), 'made “Trial” of a bundle'],
  [
    event('imported', {
      people: ['Bo Lark', 'Cy Moss'].map((name) => ({ id: name, name, email: `${name}@wrenfield.invalid` })),
    }),
    'made “Trial” of a bundle, which brought in Bo Lark, Cy Moss',
  ],
])('an event of the installation is told in words', (given, words) => {
  expect(eventWords(given)).toBe(words);
});
