import { buildPlan } from '@/core/plan';
import { compileRule, type LinkRule, type RuleDefinition, sentenceOf } from '@/core/rules';
import { rollUp, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import {
  CRATE,
  CRATE_KEPT,
  lending,
  lendingHeld,
  lendingWithRoots,
  own,
  ROOT,
  TOP,
  TOP_HELD,
} from '@/core/testing/lending';
import { create, edit, numbered, RuleDesk } from '@/core/testing/rule-desk';
import { Decimal } from '@/core/values';

const model = lending();
const [trust, museum, annex, other] = [uuid('1'), uuid('2'), uuid('3'), uuid('4')];
const [robes, pots] = [uuid('11'), uuid('12')];
const [first, second] = [uuid('21'), uuid('22')];
const [vase, bowl] = [uuid('31'), uuid('32')];

const ROWS = [
  rowOf(model, 'lender', trust, { title: 'Trust' }),
  rowOf(model, 'lender', museum, { title: 'Museum', partOf: trust }),
  rowOf(model, 'lender', annex, { title: 'Annex', partOf: museum }),
  rowOf(model, 'lender', other, { title: 'Other' }),
  rowOf(model, 'loan', robes, { lender: annex }),
  rowOf(model, 'loan', pots, { lender: other }),
  rowOf(model, 'crate', first, { label: 'Kiste Ä1', day: '2027-01-01' }),
  rowOf(model, 'crate', second, { label: 'B2', day: '2027-02-01' }),
  rowOf(model, 'artefact', vase, {}),
  rowOf(model, 'artefact', bowl, {}),
];

/** What stands where links are required and open. */
const ROWS_HELD = ROWS.filter(({ type }) => type !== 'artefact').concat(
  rowOf(lendingHeld(), 'artefact', vase, { title: 'Vase', crateLabel: 'kiste ä1' }),
  rowOf(lendingHeld(), 'artefact', bowl, { title: 'Bowl', crateLabel: 'B2', loan: pots }),
);

class Desk extends RuleDesk {
  constructor(rules: readonly RuleDefinition[]) {
    super(model, numbered(rules), ROWS);
    this.run([], { fill: this.plan.rules.map(({ id }) => id) });
  }
}

describe('a link to the own type', () => {
  const ofAll = rollUp({
    ...{ type: 'lender', target: 'loans', aggregate: 'count', value: null, whenNone: '0' },
    route: [{ direction: 'down', type: 'lender', link: 'root' }],
  });
  const desk = () => {
    const made = new RuleDesk(lendingWithRoots(), numbered([ROOT, ofAll]), ROWS);
    return made.run([], { fill: made.plan.rules.map(({ id }) => id) });
  };
  const roots = (of: RuleDesk) => [trust, museum, annex, other].map((id) => of.at('lender', id, 'root'));

  test('names the topmost above, and follows whatever moves there, with the totals over it', () => {
    const lenders = desk();
    expect(roots(lenders)).toEqual([null, trust, trust, null]);
    expect(Number(lenders.at('lender', trust, 'loans'))).toBe(2);
    expect(roots(lenders.run([edit('lender', trust, { partOf: other })]))).toEqual([
      other,
      other,
      other,
      null,
    ]);
    expect([trust, other].map((id) => Number(lenders.at('lender', id, 'loans')))).toEqual([0, 3]);
    expect(roots(lenders.run([edit('lender', museum, { partOf: null })]))).toEqual([
      other,
      null,
      museum,
      null,
    ]);
    expect(lenders.run([edit('lender', other, { root: museum })]).refused).toMatch(
      /kept in step here by the rule/,
    );
    expect(lenders.run([edit('lender', museum, { partOf: annex })]).refused).toMatch(
      /would lie inside itself/,
    );
  });

  test('turned upside down in one run it names the new top, and no loop is left', () => {
    const lenders = desk().run([
      edit('lender', museum, { partOf: null }),
      edit('lender', trust, { partOf: museum }),
    ]);
    expect([lenders.refused, ...roots(lenders)]).toEqual(['', museum, null, museum, null]);
  });
});

describe('the topmost of a hierarchy', () => {
  const tops = (desk: Desk) => [robes, pots].map((id) => desk.at('loan', id, 'top'));

  test('at any depth; itself where nothing is above', () => {
    expect(tops(new Desk([TOP]))).toEqual([trust, other]);
  });

  test('follows whatever moves on the way', () => {
    const desk = new Desk([TOP]);
    expect(tops(desk.run([edit('lender', museum, { partOf: other })]))).toEqual([other, other]);
    expect(desk.ripple!.changes.at(-1)).toMatchObject({
      field: 'top',
      causes: [{ type: 'lender', id: museum, field: 'partOf' }],
    });
    expect(tops(desk.run([edit('lender', other, { partOf: trust })]))).toEqual([trust, trust]);
    expect(tops(desk.run([edit('lender', annex, { partOf: null })]))).toEqual([annex, trust]);
    expect(tops(desk.run([edit('loan', pots, { lender: annex })]))).toEqual([annex, annex]);
    expect(tops(desk.run([edit('loan', pots, { lender: null })]))).toEqual([annex, null]);
  });

  test('moves a record under another parent in the middle of a run: totals follow once each', () => {
    const count = rollUp({
      ...{ type: 'lender', target: 'loans', aggregate: 'count', value: null, whenNone: '0' },
      route: [{ direction: 'down', type: 'loan', link: 'top' }],
    });
    const desk = new Desk([count, TOP]);
    const counts = () => [trust, museum, other].map((id) => Number(desk.at('lender', id, 'loans')));
    expect(counts()).toEqual([1, 0, 1]);
    desk.run([edit('lender', museum, { partOf: other })]);
    expect(counts()).toEqual([0, 0, 2]);
    expect(desk.ripple!.changes.filter(({ field }) => field === 'loans')).toHaveLength(2);
  });

  test('nobody enters it where the rule applies, and anybody elsewhere', () => {
    const desk = new Desk([
      {
        ...TOP,
        appliesWhen: {
          kind: 'compare',
          operator: '!=',
          left: own('isClosed'),
          right: { kind: 'constant', value: true },
        },
      },
    ]);
    desk.run([edit('loan', robes, { isClosed: false })]);
    expect(desk.at('loan', robes, 'top')).toBe(trust);
    expect(desk.run([edit('loan', robes, { top: other })]).refused).toMatch(
      /Top lender is kept in step here by the rule/,
    );
    desk.run([edit('loan', robes, { isClosed: true })]).run([edit('loan', robes, { top: other })]);
    expect([desk.refused, desk.at('loan', robes, 'top')]).toEqual(['', other]);
    expect(desk.run([edit('lender', museum, { partOf: other })]).at('loan', robes, 'top')).toBe(other);
  });

  test('or none, where nothing is above', () => {
    const find = { ...TOP.find, whenNoneAbove: 'empty' } as LinkRule['find'];
    expect(tops(new Desk([{ ...TOP, find }]))).toEqual([trust, null]);
  });

  test('only where it is empty, and again when it is cleared', () => {
    const desk = new Desk([{ ...TOP, holds: 'whereEmpty' }]);
    expect(desk.run([edit('loan', robes, { top: other })]).at('loan', robes, 'top')).toBe(other);
    desk.run([edit('lender', museum, { partOf: null })]);
    expect(desk.at('loan', robes, 'top')).toBe(other);
    expect(desk.run([edit('loan', robes, { top: null })]).at('loan', robes, 'top')).toBe(museum);
    expect(desk.back('loan', robes, { top: null }).at('loan', robes, 'top')).toBeNull();
  });

  test('one step up its way', () => {
    const desk = new Desk([
      { ...TOP, find: { kind: 'route', route: ['lender', 'partOf'], topmost: null, whenNoneAbove: 'empty' } },
    ]);
    expect(tops(desk)).toEqual([museum, null]);
  });
});

describe('what has the same', () => {
  const crateOf = (desk: Desk, id = vase) => desk.at('artefact', id, 'crate');

  test('is found whatever the case, when either comes', () => {
    const desk = new Desk([CRATE]).run([edit('artefact', vase, { crateLabel: 'KISTE ä1' })]);
    expect(crateOf(desk)).toBe(first);
    desk.run([edit('artefact', bowl, { crateLabel: 'C3' })]);
    expect(crateOf(desk, bowl)).toBeNull();
    expect(crateOf(desk.run([create('crate', uuid('23'), { label: 'c3' })]), bowl)).toBe(uuid('23'));
  });

  test('with case, what is written otherwise isn’t', () => {
    const desk = new Desk([{ ...CRATE, find: { ...CRATE.find, ignoresCase: false } as LinkRule['find'] }]);
    expect(crateOf(desk.run([edit('artefact', vase, { crateLabel: 'b2' })]))).toBeNull();
    expect(crateOf(desk.run([edit('artefact', vase, { crateLabel: 'B2' })]))).toBe(second);
  });

  test('of several a person is asked, until one is chosen', () => {
    const desk = new Desk([CRATE]).run([
      create('crate', uuid('23'), { label: 'b2' }),
      edit('artefact', vase, { crateLabel: 'B2' }),
    ]);
    expect(crateOf(desk)).toBeNull();
    expect(desk.ripple!.proposals).toEqual([
      expect.objectContaining({
        ...{ kind: 'choose', target: { type: 'artefact', id: vase } },
        missing: [{ field: 'crate', reason: 'several', candidates: [second, uuid('23')] }],
      }),
    ]);
    desk.run([edit('artefact', vase, { crate: second })]);
    expect([crateOf(desk), desk.ripple!.proposals]).toEqual([second, []]);
  });

  test('of several the first by an order, the last where it says so', () => {
    const by = (isLast: boolean): LinkRule => ({
      ...CRATE,
      ...{ holds: 'always', none: 'clear' },
      find: { ...CRATE.find, several: 'first', order: { field: own('day'), isLast } } as LinkRule['find'],
    });
    for (const isLast of [false, true]) {
      const desk = new Desk([by(isLast)]).run([
        edit('crate', first, { label: 'B2' }),
        edit('artefact', vase, { crateLabel: 'b2' }),
      ]);
      expect(crateOf(desk)).toBe(isLast ? second : first);
      desk.run([edit('crate', isLast ? second : first, { label: 'Gone' })]);
      expect(crateOf(desk)).toBe(isLast ? first : second);
      desk.run([{ kind: 'delete', type: 'crate', id: isLast ? first : second }]);
      expect(crateOf(desk)).toBeNull();
    }
  });

  test.each([
    ['partOf', museum],
    ['partOf.partOf', trust],
  ])('and meets a condition on what lies above it in its own hierarchy: %s', (way, above) => {
    const desk = new Desk([
      {
        ...TOP,
        find: {
          ...{ kind: 'match', keys: [{ field: 'title', value: own('title') }], ignoresCase: true },
          condition: {
            ...{ kind: 'compare', operator: '=', left: own('title', ...way.split('.')) },
            right: { kind: 'constant', value: 'Open' },
          },
          ...{ several: 'first', order: { field: null, isLast: false } },
        },
      },
    ]);
    expect(desk.run([edit('loan', robes, { title: 'Annex' })]).at('loan', robes, 'top')).toBeNull();
    expect(desk.run([edit('lender', above, { title: 'Open' })]).at('loan', robes, 'top')).toBe(annex);
    desk.run([edit('lender', above, { title: 'Shut' }), edit('lender', other, { title: 'Open' })]);
    expect(desk.at('loan', robes, 'top')).toBeNull();
    // What lies between is moved.
    const moved = above === museum ? annex : museum;
    expect(desk.run([edit('lender', moved, { partOf: other })]).at('loan', robes, 'top')).toBe(annex);
  });

  test('and meets a condition', () => {
    const condition = {
      kind: 'compare',
      operator: '=',
      left: own('sealed'),
      right: { kind: 'constant', value: false },
    } as const;
    const desk = new Desk([{ ...CRATE, find: { ...CRATE.find, condition } as LinkRule['find'] }]).run([
      edit('artefact', vase, { crateLabel: 'B2' }),
    ]);
    expect(crateOf(desk)).toBeNull();
    expect(crateOf(desk.run([edit('crate', second, { sealed: false })]))).toBe(second);
  });

  test('is counted by what reads the link', () => {
    const count = rollUp({
      ...{ type: 'crate', target: 'pieces', aggregate: 'count', value: null, whenNone: '0' },
      route: [{ direction: 'down', type: 'artefact', link: 'crate' }],
    });
    const desk = new Desk([count, CRATE]).run([edit('artefact', vase, { crateLabel: 'B2' })]);
    expect(desk.at('crate', second, 'pieces')).toEqual(new Decimal(1));
  });
});

test.each<[string, LinkRule, RegExp]>([
  [
    'a way that leads elsewhere',
    { ...TOP, find: { kind: 'route', route: ['top'], topmost: null, whenNoneAbove: 'empty' } },
    /^find: Choose the way/,
  ],
  ['a link that isn’t there', { ...TOP, target: 'title' }, /^target: Choose the link of Loan/],
  ['a link to its own type', { ...TOP, type: 'lender', target: 'partOf' }, /so that no loop is made/],
  [
    'a hierarchy that isn’t there',
    { ...TOP, find: { ...TOP.find, topmost: 'lender' } as LinkRule['find'] },
    /no such link to itself/,
  ],
  [
    'keys of unlike kinds',
    {
      ...CRATE,
      find: { ...CRATE.find, keys: [{ field: 'day', value: own('crateLabel') }] } as LinkRule['find'],
    },
    /^keys.0.value/,
  ],
  [
    'nothing to find it by',
    { ...CRATE, find: { ...CRATE.find, keys: [] } as LinkRule['find'] },
    /^keys: Say by which fields/,
  ],
  [
    'a person who is asked of what is always so',
    { ...CRATE, holds: 'always' },
    /^several: A person is asked only/,
  ],
])('%s is refused while it is written', (_name, definition, message) => {
  const { problems } = buildPlan(model, [ruleOf(definition, 1)]);
  expect(problems.map((one) => `${one.place}: ${one.message}`).join('\n')).toMatch(message);
});

describe('a link that is required', () => {
  const desk = () => new RuleDesk(lendingHeld(), numbered([TOP_HELD]), ROWS_HELD);

  test('is filled by a rule: nobody needs to enter it', () => {
    const made = desk().run([create('loan', uuid('41'), { title: 'New', lender: annex })]);
    expect([made.refused, made.at('loan', uuid('41'), 'top')]).toEqual(['', trust]);
  });

  test('where the rule finds none what was entered stands; where nothing was, the save is refused in words', () => {
    const entered = desk().run([create('loan', uuid('41'), { title: 'New', top: other })]);
    expect([entered.refused, entered.at('loan', uuid('41'), 'top')]).toEqual(['', other]);
    const lacking = desk().run([create('loan', uuid('41'), { title: 'New' })]);
    expect(lacking.refused).toMatch(
      /Top lender is required, and the rule “.*” finds no Lender for it here\. Choose one\./,
    );
  });

  test('a rule that fills it later, asks people or empties it is refused', () => {
    const problems = (more: Partial<LinkRule>) =>
      buildPlan(lendingHeld(), numbered([{ ...TOP_HELD, ...more }])).problems.map(({ message }) => message);
    expect(problems({})).toEqual([]);
    for (const more of [{ pace: 'soonAfter' }, { none: 'clear' }] as const)
      expect(problems(more)).toEqual([
        expect.stringMatching(/^Top lender is required: a rule fills it with the save/),
      ]);
  });
});

describe('one link of an open link', () => {
  const desk = (required = false) =>
    new RuleDesk(lendingHeld(required), numbered([CRATE_KEPT]), ROWS_HELD).run([], {
      fill: numbered([CRATE_KEPT]).map(({ id }) => id),
    });
  const places = (of: RuleDesk, id: string) => ['crate', 'loan'].map((link) => of.at('artefact', id, link));

  test('is filled where no other of it is, and given up once a person chooses another', () => {
    const at = desk();
    expect([places(at, vase), places(at, bowl)]).toEqual([
      [first, null],
      [null, pots],
    ]);
    at.run([edit('artefact', vase, { crate: null, loan: robes })]);
    expect([at.refused, ...places(at, vase)]).toEqual(['', null, robes]);
    at.run([edit('artefact', vase, { loan: null })]);
    expect([at.refused, ...places(at, vase)]).toEqual(['', first, null]);
    at.run([edit('artefact', vase, { crate: second })]);
    expect(at.refused).toMatch(/kept in step here by the rule/);
  });

  test('required, it needs nothing entered where the rule finds one, and is refused where it finds none', () => {
    const at = desk(true).run([create('artefact', uuid('51'), { title: 'New', crateLabel: 'B2' })]);
    expect([at.refused, ...places(at, uuid('51'))]).toEqual(['', second, null]);
    at.run([create('artefact', uuid('52'), { title: 'Lost', crateLabel: 'nowhere' })]);
    expect(at.refused).toMatch(/^Place is required\. Choose a record of type Crate or Loan\.$/);
  });

  test('its sentence says so', () => {
    const compiled = compileRule(lendingHeld(), numbered([CRATE_KEPT])[0]!);
    expect(compiled.ok && sentenceOf(lendingHeld(), compiled.rule)).toMatch(
      /^On every Artefact whose Place names no other, keep Crate linked to the Crate with the same Label/,
    );
  });
});
