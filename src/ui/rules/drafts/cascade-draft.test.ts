import { CASCADES, down, touring, up } from '@/core/testing/touring';
import {
  assignableChoices,
  type CascadeDraft,
  cascadeDraft,
  cascadeOf,
  fieldsToAssign,
  NEW_CASCADE,
  NEW_CHANGE,
  reachIn,
  recipientOf,
  withField,
  withWay,
} from './cascade-draft';

const model = touring();
const nothingKept = () => undefined;
const to = (draft: CascadeDraft, ...route: CascadeDraft['route'] & object) =>
  withWay(model, draft, { route, isAllTheWay: false });
const LOANS = [down('loan', 'exhibition')] as const;

test('an order is kept wherever several may cascade to one, at a time or at all', () => {
  const kept = cascadeOf({ ...cascadeDraft(CASCADES.dealings), moment: 'inStep', pace: 'soonAfter' });
  expect(kept).toMatchObject({ order: CASCADES.dealings.order, moment: 'inStep', pace: 'soonAfter' });
  // What reacts does so with the save.
  expect(cascadeOf({ ...cascadeDraft(CASCADES.dealings), pace: 'soonAfter' })?.pace).toBe('withTheSave');
});

test('it stands for nothing while a part is missing', () => {
  const whole = cascadeDraft(CASCADES.coordinator);
  expect(cascadeOf({ ...whole, route: null })).toBeNull();
  expect(cascadeOf({ ...whole, moment: null })).toBeNull();
  expect(cascadeOf({ ...whole, assignments: [] })).toBeNull();
  expect(
    cascadeOf({ ...whole, assignments: [{ target: 'coordinator', value: null, isOff: false }] }),
  ).toBeNull();
});

test('another way leaves the moment where it can go that way', () => {
  const inStep: CascadeDraft = { ...NEW_CASCADE, type: 'loan', moment: 'inStep' };
  expect(reachIn(model, to(inStep, up('lender')))).toBe('above');
  expect(to(inStep, up('lender')).moment).toBe('inStep');
  expect(to(inStep, up('exhibition'), down('loan', 'exhibition')).moment).toBe('inStep');
  expect(to(inStep).moment).toBeNull();
  const first: CascadeDraft = { ...inStep, moment: 'atCreation' };
  expect(to(first, up('lender')).moment).toBeNull();
  expect(to(first, up('exhibition'), down('loan', 'exhibition')).moment).toBe('atCreation');
  const change: CascadeDraft = { ...inStep, moment: NEW_CHANGE(model, 'loan') };
  expect(to(change).moment).toEqual(change.moment);
  const deep = { ...NEW_CASCADE, type: 'institution', moment: 'inStep' } as const;
  expect(
    withWay(model, deep, { route: [down('institution', 'partOf')], isAllTheWay: true }).moment,
  ).toBeNull();
});

test('another way to records of another type leaves nothing of what they take', () => {
  const draft = cascadeDraft(CASCADES.coordinator);
  expect(to(draft, ...LOANS).assignments).toHaveLength(draft.assignments.length);
  const other = to(draft, up('venue'));
  expect([recipientOf(model, other), other.assignments, other.condition]).toEqual(['institution', [], null]);
});

test('fields of both come first and take the one of the same name at once; what a rule keeps says so', () => {
  const draft: CascadeDraft = { ...NEW_CASCADE, type: 'exhibition', route: LOANS };
  const kept = (_: string, field: string) => (field === 'climate' ? 'Climate of loans' : undefined);
  const offered = fieldsToAssign(model, draft, kept);
  const [first] = offered;
  expect(first!.isShared).toBe(true);
  const climate = assignableChoices(offered).find(({ key }) => key === 'climate');
  expect(climate).toMatchObject({ isDisabled: true });
  expect(climate!.note).toContain('Climate of loans');
  const taking = withField(model, draft, model.field('loan', 'coordinator')!);
  expect(taking.assignments).toEqual([
    {
      ...{ target: 'coordinator', isOff: false },
      value: { kind: 'expression', expression: { kind: 'field', route: [], field: 'coordinator' } },
    },
  ]);
  expect(fieldsToAssign(model, taking, nothingKept).map(({ field }) => field.key)).not.toContain(
    'coordinator',
  );
  expect(fieldsToAssign(model, NEW_CASCADE, nothingKept)).toEqual([]);
});
