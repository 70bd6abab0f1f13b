import { lending, lendingHeld } from '@/core/testing/lending';
import { linksToFill, NEW_LINK, withTarget } from './link-draft';

const offered = (type: string, model = lendingHeld(true)) =>
  linksToFill(model, type, () => undefined).map(({ field, why }) => [field.key, why]);

test('links that are required, and those of an open link, are offered too', () => {
  expect(offered('loan')).toEqual([
    ['lender', null],
    ['top', null],
  ]);
  expect(offered('artefact')).toEqual([
    ['crate', null],
    ['loan', null],
  ]);
  expect(offered('lender', lending())).toEqual([
    ['partOf', 'to its own type, without another such link to go up by'],
  ]);
});

test('of a required link what stands there is left where none is found; of any other the draft stays as it is', () => {
  const draft = { ...NEW_LINK, type: 'loan', none: 'clear' as const, pace: 'soonAfter' as const };
  expect(withTarget(lendingHeld(), draft, 'top')).toMatchObject({
    ...{ target: 'top', none: 'leave', pace: 'withTheSave', find: null },
  });
  expect(withTarget(lendingHeld(), draft, 'lender')).toMatchObject({ none: 'clear', pace: 'soonAfter' });
  const place = { ...draft, type: 'artefact' };
  expect(withTarget(lendingHeld(true), place, 'crate')).toMatchObject({ none: 'leave' });
  expect(withTarget(lendingHeld(false), place, 'crate')).toMatchObject({ none: 'clear' });
});
