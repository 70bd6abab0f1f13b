import { inspections, LINE, TREATMENT } from '@/core/testing/inspections';
import { CRATE, lending, lendingWithRoots, ROOT, TOP } from '@/core/testing/lending';
import { CASCADES, down, touring, up } from '@/core/testing/touring';
import {
  cascadeDraft,
  cascadeOf,
  assignableChoices,
  fieldsToAssign,
  fieldValue,
  NEW_CASCADE,
  reachIn,
  recipientOf,
  withField,
  withWay,
} from './cascade-draft';
import { createDraft, createOf, fieldsToFill, fieldsToGive, NEW_CREATE, withMade } from './create-draft';
import { linkDraft, linkOf, linksToFill, namedBy, NEW_LINK, waysOffered } from './link-draft';

const nothing = () => undefined;

describe('a cascade', () => {
  const model = touring();
  const coordinator = cascadeDraft(CASCADES.coordinator);

  test('of each sort is the same when it is put down again', () => {
    for (const definition of Object.values(CASCADES))
      expect(cascadeOf(cascadeDraft(definition))).toEqual(definition);
  });

  test('knows who takes the values, once the way is chosen', () => {
    expect([recipientOf(model, NEW_CASCADE), reachIn(model, NEW_CASCADE)]).toEqual([null, null]);
    expect(recipientOf(model, coordinator)).toBe('loan');
    expect(reachIn(model, coordinator)).toBe('beneath');
    expect(
      reachIn(model, { ...coordinator, type: 'loan', route: [up('exhibition'), down('loan', 'exhibition')] }),
    ).toBe('siblings');
  });

  test('offers fields that both have first, and none that is assigned or kept', () => {
    const all = fieldsToAssign(model, coordinator, (_, field) =>
      field === 'climate' ? 'Climate' : undefined,
    );
    const offered = all.filter(({ why }) => why === null);
    const keys = offered.map(({ field }) => field.key);
    expect(all.map(({ field }) => field.key)).not.toContain('coordinator');
    expect(keys).not.toContain('climate');
    expect(keys.slice(0, 3)).toContain('languages');
    const firstOwn = offered.findIndex(({ isShared }) => !isShared);
    expect(offered.slice(firstOwn).every(({ isShared }) => !isShared)).toBe(true);
    // What can't take a value stands after the others, with why.
    const closed = all.slice(offered.length);
    expect(closed.map(({ field, why }) => [field.key, why])).toEqual(
      expect.arrayContaining([
        ['climate', 'kept by “Climate”'],
        ['title', 'required: people enter it'],
        ['exhibition', 'a link: a link rule fills it'],
      ]),
    );
    expect(assignableChoices(closed).every(({ isDisabled }) => isDisabled)).toBe(true);
  });

  test('a field that both have is assigned at once; another waits for its value', () => {
    const languages = model.field('loan', 'languages')!;
    expect(withField(model, coordinator, languages).assignments.at(-1)).toMatchObject({
      target: 'languages',
      value: fieldValue('languages'),
    });
    const stage = model.field('loan', 'stage')!;
    const open = withField(model, coordinator, stage);
    expect(open.assignments.at(-1)).toMatchObject({ target: 'stage', value: null });
    expect(cascadeOf(open)).toBeNull();
  });

  test('on another way to the same records it keeps what is assigned; to others it begins anew', () => {
    const same = withWay(model, coordinator, { route: [down('loan', 'exhibition')], isAllTheWay: false });
    expect(same.assignments).toEqual(coordinator.assignments);
    const other = withWay(model, coordinator, {
      route: [down('assignment', 'exhibition')],
      isAllTheWay: false,
    });
    expect(other.assignments).toEqual([]);
    const kept = cascadeDraft(CASCADES.climate);
    expect(withWay(model, kept, { route: [], isAllTheWay: false }).moment).not.toBe('inStep');
  });
});

describe('a create rule', () => {
  const model = inspections();

  test('is the same when it is put down again', () => {
    for (const definition of [TREATMENT, LINE]) expect(createOf(createDraft(definition))).toEqual(definition);
  });

  test('begins with the links between the two, and what must be entered', () => {
    const begun = withMade(model, { ...NEW_CREATE, type: 'artefact' }, 'line');
    expect([begun.back, begun.forward]).toEqual(['artefact', 'line']);
    const targets = begun.assignments.map(({ target }) => target);
    expect(targets).toContain('title');
    expect(targets).toContain('maker');
    expect(targets).not.toContain('artefact');
    expect(targets).not.toContain('number');
    expect(withMade(model, NEW_CREATE, 'line')).toEqual(NEW_CREATE);
  });

  test('offers what isn’t filled yet: what must be entered first, then what both have', () => {
    const draft = { ...withMade(model, { ...NEW_CREATE, type: 'artefact' }, 'line'), assignments: [] };
    const all = fieldsToFill(model, draft, (_, field) => (field === 'policy' ? 'Policy' : undefined));
    const offered = all.filter(({ why }) => why === null).map(({ field }) => field.key);
    expect(offered[0]).toBe('title');
    expect(all.slice(offered.length).map(({ field, why }) => [field.key, why])).toEqual([
      ['number', 'given by Oikon'],
      ['policy', 'kept by “Policy”'],
    ]);
    expect(fieldsToFill(model, NEW_CREATE, nothing)).toEqual([]);
  });

  test('gives back into fields of the record, never into its link to what is made', () => {
    const draft = { ...withMade(model, { ...NEW_CREATE, type: 'artefact' }, 'line') };
    const keys = fieldsToGive(model, draft, (_, field) => (field === 'treatments' ? 'It' : undefined))
      .filter(({ why }) => why === null)
      .map(({ field }) => field.key);
    expect(keys).toContain('lineNumber');
    expect(keys).not.toContain('line');
    expect(keys).not.toContain('treatments');
    expect(fieldsToGive(model, NEW_CREATE, nothing)).toEqual([]);
  });
});

describe('a link rule', () => {
  const model = lending();

  test('is the same when it is put down again', () => {
    for (const definition of [TOP, CRATE]) expect(linkOf(linkDraft(definition))).toEqual(definition);
    expect(linkOf(NEW_LINK)).toBeNull();
  });

  test('offers links that a rule may fill', () => {
    const offered = (type: string, keptBy: (field: string) => string | undefined) =>
      linksToFill(model, type, keptBy).map(({ field, why }) => [field.key, why]);
    expect(offered('loan', nothing).filter(([, why]) => why === null)).toEqual([
      ['lender', null],
      ['top', null],
    ]);
    expect(offered('loan', (field) => (field === 'top' ? 'Topmost' : undefined))).toContainEqual([
      'top',
      'kept by “Topmost”',
    ]);
    expect(offered('lender', nothing).every(([, why]) => why !== null)).toBe(true);
    const roots = linksToFill(lendingWithRoots(), 'lender', nothing).find(
      ({ field }) => field.key === 'root',
    );
    expect(roots?.why).toBeNull();
  });

  test('of a link to the own type offers what lies above over another', () => {
    const draft = linkDraft(ROOT);
    const offered = waysOffered(lendingWithRoots(), draft);
    expect(offered.map(({ find }) => find)).toContainEqual(ROOT.find);
    expect(
      offered.flatMap(({ find }) => (find.kind === 'route' ? [...find.route, find.topmost] : [])),
    ).not.toContain('root');
  });

  test('offers ways up to what the link names, and to the topmost of its hierarchy', () => {
    const draft = linkDraft(TOP);
    expect(namedBy(model, draft)).toBe('lender');
    const offered = waysOffered(model, draft);
    expect(offered.length).toBeGreaterThan(0);
    expect(offered.some(({ name }) => /topmost|top/i.test(name))).toBe(true);
    expect(namedBy(model, NEW_LINK)).toBeNull();
  });
});
