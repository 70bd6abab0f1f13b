import type { RuleView } from '@/core/api';
import { changeWords, isPilotOnly, stateWords } from './state-words';

const view = (of: object): RuleView =>
  ({ state: 'live', pilot: null, hasChangesNotLive: false, later: null, ...of }) as RuleView;

/** A live rule, of which a sum is tried, as it is written now. */
const beside = (aggregate: string) => ({
  ...{ hasChangesNotLive: true, definition: { kind: 'rollUp', aggregate } },
  pilot: { words: 'those in “Open now”', tried: { kind: 'rollUp', aggregate: 'sum' } },
});

test('a change is told beside the state: not live, in a pilot, or changed again since', () => {
  const told = (of: object) => [changeWords(view(of)), isPilotOnly(view(of))];
  expect(told({})).toEqual([null, false]);
  expect(told({ hasChangesNotLive: true })).toEqual(['Change not live', false]);
  expect(told({ pilot: { words: 'two', tried: null } })).toEqual([null, true]);
  expect(told(beside('sum'))).toEqual(['Change in pilot', false]);
  expect(told(beside('average'))).toEqual(['Change in pilot, changed again', false]);
});

test.each([
  ['of nothing that is saved yet', null, /Save it as a draft/],
  ['of a draft', view({ state: 'draft' }), /changes nothing/],
  ['of one that was retired', view({ state: 'retired' }), /^$/],
  ['of a pilot', view({ pilot: { words: 'Rivers of Silk' } }), /runs for Rivers of Silk/],
  [
    'of one whose change is tried beside it',
    view(beside('sum')),
    /the change written here is tried on a pilot: those in “Open now”. On all others it goes on as it was\.$/,
  ],
  ['of one that was changed once more', view(beside('average')), /What is written here waits/],
  ['of one that was changed since', view({ hasChangesNotLive: true }), /live as it was/],
  ['of a formula', view({ definition: { kind: 'formula' } }), /with every save, and people can’t edit it/],
  ['of a slower one', view({ definition: { kind: 'formula' }, later: {} }), /as of when/],
  [
    'of a roll-up that reacts',
    view({ definition: { kind: 'rollUp', map: { otherwise: { kind: 'asItIs' } } } }),
    /acts when its result changes/,
  ],
  ['of a cascade kept in step', view({ definition: { kind: 'cascade', moment: 'inStep' } }), /in step/],
  ['of one on change', view({ definition: { kind: 'cascade', moment: 'onCreation' } }), /from now on/],
  ['of what makes records', view({ definition: { kind: 'create' } }), /makes records/],
  ['of a link that is kept', view({ definition: { kind: 'link', holds: 'always' } }), /can’t enter it/],
  ['of a link that is filled', view({ definition: { kind: 'link', holds: 'whereEmpty' } }), /is filled/],
  [
    'of a paused rule that reacts',
    view({ state: 'paused', definition: { kind: 'create' } }),
    /^Paused: it changes nothing.$/,
  ],
  ['of a paused one', view({ state: 'paused', definition: { kind: 'formula' } }), /values stand still/],
])('what the state means is told %s', (_, rule, words) => {
  expect(stateWords(rule)).toMatch(words);
});
