import { buildPlan } from '@/core/plan';
import type { Cascade } from '@/core/rules';
import { rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { cascade, CASCADES, down, fixed, from, touring, up, when } from '@/core/testing/touring';
import { create, edit, numbered, RuleDesk } from '@/core/testing/rule-desk';
import type { Value } from '@/core/values';
import { type Edit } from '@/core/engine';

const model = touring();
const [silk, salt] = [uuid('11'), uuid('12')];
const [robes, pots, kites] = [uuid('21'), uuid('22'), uuid('23')];
const [kestrel, orrery] = [uuid('1'), uuid('2')];

const ROWS = [
  rowOf(model, 'institution', kestrel, {}),
  rowOf(model, 'institution', orrery, {}),
  rowOf(model, 'exhibition', silk, {
    title: 'Rivers of Silk',
    coordinator: 'Farid',
    closes: '2027-08-29',
    climate: 'Dry',
  }),
  rowOf(model, 'exhibition', salt, {
    title: 'Salt',
    coordinator: 'Elsie',
    climate: 'Cool',
    languages: ['welsh'],
  }),
  rowOf(model, 'loan', robes, {
    exhibition: silk,
    lender: kestrel,
    stage: 'agreed',
    coordinator: 'Farid',
    dueBack: '2027-09-30',
  }),
  rowOf(model, 'loan', pots, {
    exhibition: silk,
    lender: kestrel,
    stage: 'declined',
    coordinator: 'Somebody',
    dueBack: '2027-10-31',
  }),
  rowOf(model, 'loan', kites, { exhibition: silk, lender: orrery, stage: 'agreed', coordinator: null }),
];

class Desk extends RuleDesk {
  constructor(cascades: readonly Cascade[], rows = ROWS) {
    super(model, numbered(cascades), rows);
  }

  loans(field: string): Value[] {
    return [robes, pots, kites].map((id) => this.at('loan', id, field));
  }
}

describe('on change', () => {
  test('the coordinator goes to all loans, whoever had them before; those that have it aren’t written', () => {
    const desk = new Desk([CASCADES.coordinator]).run([edit('exhibition', silk, { coordinator: 'Priya' })]);
    expect(desk.loans('coordinator')).toEqual(['Priya', 'Priya', 'Priya']);
    expect(desk.ripple!.changes.filter(({ wave }) => wave === 1)).toHaveLength(3);
    expect(desk.ripple!.changes.at(-1)!.causes).toEqual([
      { type: 'exhibition', id: silk, field: 'coordinator' },
    ]);
    desk.run([edit('loan', pots, { coordinator: 'Another' })]);
    expect(desk.loans('coordinator')).toEqual(['Priya', 'Another', 'Priya']);
    desk.run([edit('exhibition', silk, { title: 'Rivers' })]);
    expect(desk.at('loan', pots, 'coordinator')).toBe('Another');
    desk.run([edit('exhibition', silk, { coordinator: 'Another' })]);
    expect(
      desk
        .ripple!.changes.filter(({ wave }) => wave === 1)
        .map(({ id }) => id)
        .sort(),
    ).toEqual([robes, kites]);
  });

  test('the one before is kept on the record itself, on change only', () => {
    const desk = new Desk([CASCADES.before]);
    desk.run([create('exhibition', uuid('13'), { coordinator: 'Farid' })]);
    expect(desk.at('exhibition', uuid('13'), 'coordinatorBefore')).toBeNull();
    desk.run([edit('exhibition', silk, { coordinator: 'Priya' })]);
    expect(desk.at('exhibition', silk, 'coordinatorBefore')).toBe('Farid');
    desk.run([edit('exhibition', silk, { title: 'Rivers' })]);
    desk.run([edit('exhibition', silk, { coordinator: null })]);
    expect(desk.at('exhibition', silk, 'coordinatorBefore')).toBe('Priya');
  });

  test.each([
    ['all', ['Priya', 'Priya', 'Priya']],
    ['empty', ['Farid', 'Somebody', 'Priya']],
    ['oldValue', ['Priya', 'Somebody', null]],
  ] as const)('only where it says so: %s', (only, expected) => {
    const desk = new Desk([{ ...CASCADES.coordinator, only }]);
    desk.run([edit('exhibition', silk, { coordinator: 'Priya' })]);
    expect(desk.loans('coordinator')).toEqual(expected);
  });

  test('over a bridge all couriers are on tour, each once, when the stage becomes open and at nothing else', () => {
    const [ines, jo] = [uuid('51'), uuid('52')];
    const rows = [
      ...ROWS,
      ...[ines, jo].map((id) => rowOf(model, 'courier', id, { availability: 'free' })),
      ...[ines, ines, jo].map((courier, at) =>
        rowOf(model, 'assignment', uuid(`6${at}`), { courier, exhibition: silk }),
      ),
    ];
    const desk = new Desk([CASCADES.courier, CASCADES.note], rows);
    desk.run([edit('exhibition', silk, { phase: 'confirmed' })]);
    expect(desk.ripple!.changes).toHaveLength(1);
    desk.run([edit('exhibition', silk, { phase: 'open' })]);
    expect([ines, jo].map((id) => desk.at('courier', id, 'availability'))).toEqual(['onTour', 'onTour']);
    expect(desk.at('assignment', uuid('61'), 'note')).toBe('With Rivers of Silk until 29 Aug 2027');
    desk.run([
      edit('courier', ines, { availability: 'free' }),
      edit('exhibition', silk, { phase: 'closed' }),
    ]);
    expect(desk.at('courier', ines, 'availability')).toBe('free');
  });

  test('siblings of the same lender take it, not the record itself, nor others', () => {
    const desk = new Desk([CASCADES.instruction]).run([edit('loan', robes, { instruction: 'Ring first' })]);
    expect(desk.loans('instruction')).toEqual(['Ring first', 'Ring first', null]);
  });

  test('two edited siblings keep their own entry; a third takes the first’s by the rule’s order, the other is told', () => {
    const other = uuid('24');
    const rows = [...ROWS, rowOf(model, 'loan', other, { exhibition: silk, lender: kestrel })];
    const order = { field: { kind: 'field', route: [], field: 'dueBack' }, isLast: false } as const;
    const desk = new Desk([{ ...CASCADES.instruction, order }], rows);
    desk.run([edit('loan', pots, { instruction: 'Second' }), edit('loan', robes, { instruction: 'First' })]);
    expect(desk.loans('instruction').slice(0, 2)).toEqual(['First', 'Second']);
    expect(desk.at('loan', other, 'instruction')).toBe('First');
    expect(desk.ripple!.overruled.map(({ id, value }) => [id, value]).sort()).toEqual(
      [
        [robes, 'Second'],
        [pots, 'First'],
        [other, 'Second'],
      ].sort(),
    );
  });

  test('to what it hangs under, over a table of options; what has no row is left, the one due back last comes first', () => {
    const desk = new Desk([CASCADES.dealings]).run([edit('loan', robes, { stage: 'returned' })]);
    expect(desk.at('institution', kestrel, 'dealings')).toBe('past');
    desk.run([edit('loan', robes, { stage: 'declined' })]);
    expect(desk.at('institution', kestrel, 'dealings')).toBe('past');
    desk.run([edit('loan', robes, { stage: 'returned' }), edit('loan', pots, { stage: 'agreed' })]);
    expect(desk.at('institution', kestrel, 'dealings')).toBe('active');
    desk.run([edit('loan', robes, { lender: orrery })]);
    expect(desk.at('institution', orrery, 'dealings')).toBeNull();
  });

  test('several choices follow, also when they are emptied', () => {
    const desk = new Desk([CASCADES.languages]).run([
      edit('exhibition', silk, { languages: ['english', 'welsh'] }),
    ]);
    expect(desk.at('loan', robes, 'languages')).toEqual(['english', 'welsh']);
    expect(
      desk.run([edit('exhibition', silk, { languages: null })]).at('loan', robes, 'languages'),
    ).toBeNull();
  });

  test('what a person enters in the same run stands, and what would have been is told', () => {
    const desk = new Desk([CASCADES.coordinator]);
    desk.run([
      edit('exhibition', silk, { coordinator: 'Priya' }),
      edit('loan', robes, { coordinator: 'Mine' }),
    ]);
    expect(desk.loans('coordinator')).toEqual(['Mine', 'Priya', 'Priya']);
    expect(desk.ripple!.overruled).toMatchObject([{ id: robes, value: 'Priya' }]);
  });

  test('a run that undoes another hands nothing on', () => {
    const desk = new Desk([CASCADES.coordinator]);
    desk.back('exhibition', silk, { coordinator: 'Priya' });
    expect(desk.loans('coordinator')).toEqual(['Farid', 'Somebody', null]);
  });

  test('all fields of a rule are worked out before one of them is written', () => {
    const both = cascade({
      ...{
        type: 'exhibition',
        route: [down('loan', 'exhibition')],
        moment: when({ kind: 'changed', field: 'climate' }),
      },
      condition: {
        ...{ kind: 'compare', operator: '=', left: { kind: 'field', route: [], field: 'stage' } },
        right: { kind: 'constant', value: 'agreed' },
      },
      assignments: [
        {
          target: 'stage',
          value: { kind: 'expression', expression: { kind: 'constant', value: 'requested' } },
        },
        from('coordinator'),
      ],
    });
    const desk = new Desk([both]).run([edit('exhibition', silk, { climate: 'Cool' })]);
    expect(desk.loans('stage')).toEqual(['requested', 'declined', 'requested']);
    expect(desk.loans('coordinator')).toEqual(['Farid', 'Somebody', 'Farid']);
  });

  test('a value that rose or fell, and one that stopped being', () => {
    const assigned = (target: string, value: string) => [
      { target, value: { kind: 'expression' as const, expression: { kind: 'constant' as const, value } } },
    ];
    const desk = new Desk([
      cascade({
        type: 'exhibition',
        route: [],
        moment: when({ kind: 'rose', field: 'closes' }),
        assignments: assigned('coordinator', 'Later'),
      }),
      cascade({
        type: 'exhibition',
        route: [],
        moment: when({ kind: 'stoppedBeing', field: 'phase', value: 'open' }),
        assignments: assigned('climate', 'Any'),
      }),
    ]);
    desk.run([edit('exhibition', silk, { closes: '2027-08-28', phase: 'open' })]);
    expect(desk.at('exhibition', silk, 'coordinator')).toBe('Farid');
    desk.run([edit('exhibition', silk, { closes: '2027-09-01', phase: 'closed' })]);
    expect(desk.at('exhibition', silk, 'coordinator')).toBe('Later');
    expect(desk.at('exhibition', silk, 'climate')).toBe('Any');
  });
});

describe('at creation', () => {
  test('a loan starts with its exhibition’s values; what was entered stands, also an explicit empty', () => {
    const desk = new Desk([CASCADES.starts]);
    const [plain, own, emptied] = [uuid('31'), uuid('32'), uuid('33')];
    desk.run([
      create('loan', plain, { exhibition: salt }),
      create('loan', own, { exhibition: salt, coordinator: 'Mine' }),
      create('loan', emptied, { exhibition: salt, coordinator: null }),
    ]);
    expect([plain, own, emptied].map((id) => desk.at('loan', id, 'coordinator'))).toEqual([
      'Elsie',
      'Mine',
      null,
    ]);
    expect(desk.at('loan', plain, 'languages')).toEqual(['welsh']);
    desk.run([edit('exhibition', salt, { coordinator: 'Priya' })]);
    expect(desk.at('loan', plain, 'coordinator')).toBe('Elsie');
  });

  test('a loan starts with what the newest of its siblings has that has something, of the same lender', () => {
    const rows = ROWS.map((row) =>
      row.id === robes || row.id === kites
        ? { ...row, values: { ...row.values, instruction: `Of ${row.id.slice(-2)}` } }
        : row,
    );
    const desk = new Desk([CASCADES.newest, CASCADES.instruction], rows);
    const [one, two, other, own] = [uuid('31'), uuid('32'), uuid('33'), uuid('34')];
    desk.run([
      ...[one, two].map((id) => create('loan', id, { exhibition: silk, lender: kestrel })),
      create('loan', other, { exhibition: salt, lender: kestrel }),
      create('loan', own, { exhibition: silk, lender: kestrel, instruction: 'Own' }),
    ]);
    // Pots, the newest there was, has none; those of the same run aren't asked.
    expect([one, two, other, own].map((id) => desk.at('loan', id, 'instruction'))).toEqual([
      'Of 21',
      'Of 21',
      null,
      'Own',
    ]);
    expect(
      desk
        .run([create('loan', uuid('35'), { exhibition: silk, lender: kestrel })])
        .at('loan', uuid('35'), 'instruction'),
    ).toBe('Own');
  });

  test('a default gives way to it', () => {
    const desk = new Desk([CASCADES.starts]);
    const made = create('loan', uuid('31'), { exhibition: salt, coordinator: 'Default' }) as Extract<
      Edit,
      { kind: 'create' }
    >;
    expect(desk.run([{ ...made, defaults: ['coordinator'] }]).at('loan', uuid('31'), 'coordinator')).toBe(
      'Elsie',
    );
  });

  test('a moved loan takes over what is empty or as the old exhibition gave it; typed notes stay', () => {
    const desk = new Desk([CASCADES.starts]);
    desk.run([robes, pots, kites].map((id) => edit('loan', id, { exhibition: salt })));
    expect(desk.loans('coordinator')).toEqual(['Elsie', 'Somebody', 'Elsie']);
    expect(desk.at('loan', robes, 'languages')).toEqual(['welsh']);
  });

  test('attached from nowhere it takes over what is empty; detached nothing', () => {
    const rows = [
      ...ROWS,
      rowOf(model, 'loan', uuid('31'), { coordinator: null }),
      rowOf(model, 'loan', uuid('32'), { coordinator: 'Own' }),
    ];
    const desk = new Desk([CASCADES.starts], rows);
    desk.run([
      edit('loan', uuid('31'), { exhibition: salt }),
      edit('loan', uuid('32'), { exhibition: salt }),
    ]);
    expect([uuid('31'), uuid('32')].map((id) => desk.at('loan', id, 'coordinator'))).toEqual([
      'Elsie',
      'Own',
    ]);
    expect(
      desk.run([edit('loan', uuid('31'), { exhibition: null })]).at('loan', uuid('31'), 'coordinator'),
    ).toBe('Elsie');
  });

  test('coming back from the bin is no creation', () => {
    const desk = new Desk([CASCADES.starts]);
    desk
      .run([{ kind: 'delete', type: 'loan', id: kites }])
      .run([{ kind: 'restore', type: 'loan', id: kites }]);
    expect(desk.at('loan', kites, 'coordinator')).toBeNull();
  });

  test('over two links: made beneath, or moved along with what lies between', () => {
    const toPieces = cascade({
      ...{
        type: 'exhibition',
        route: [down('loan', 'exhibition'), down('artefact', 'loan')],
        moment: 'atCreation',
      },
      assignments: [from('climate')],
    });
    const vase = uuid('71');
    const desk = new Desk([toPieces]).run([create('artefact', vase, { loan: robes })]);
    expect(desk.at('artefact', vase, 'climate')).toBe('Dry');
    desk.run([edit('loan', robes, { exhibition: salt })]);
    expect(desk.at('artefact', vase, 'climate')).toBe('Cool');
  });
});

describe('all the way down a link to itself', () => {
  const dealings = cascade({
    ...{ type: 'institution', route: [down('institution', 'partOf')], isAllTheWay: true },
    ...{ assignments: [from('dealings')], moment: when({ kind: 'changed', field: 'dealings' }) },
  });
  /** A trust, a museum of it, its two wings, a room in one, and another trust. */
  const [trust, museum, east, west, room, other] = ['61', '62', '63', '64', '65', '66'].map(uuid) as [
    ...[string, string, string, string, string, string],
  ];
  const above: [string, string | null][] = [
    [trust, null],
    [museum, trust],
    [east, museum],
    [west, museum],
    [room, east],
    [other, null],
  ];
  const rows = above.map(([id, partOf]) => rowOf(model, 'institution', id, { partOf, dealings: 'none' }));
  const all = (desk: Desk) => above.map(([id]) => desk.at('institution', id, 'dealings'));

  test('everything beneath takes it, whatever the depth, and nothing beside or above', () => {
    const desk = new Desk([dealings], rows).run([edit('institution', museum, { dealings: 'active' })]);
    expect(all(desk)).toEqual(['none', 'active', 'active', 'active', 'active', 'none']);
    expect(desk.ripple!.changes.filter(({ wave }) => wave === 1)).toHaveLength(3);
  });

  test('each takes from the nearest above it, and what was entered stands', () => {
    const desk = new Desk([dealings], rows).run([
      edit('institution', trust, { dealings: 'past' }),
      edit('institution', east, { dealings: 'talks' }),
    ]);
    expect(all(desk)).toEqual(['past', 'past', 'talks', 'past', 'talks', 'none']);
    expect(desk.ripple!.overruled.map(({ id }) => id)).toEqual([east]);
  });

  test('a condition leaves out single ones, not what lies beneath them', () => {
    const isEast = {
      kind: 'compare',
      operator: '!=',
      left: { kind: 'field', route: [], field: 'title' },
    } as const;
    const named = rows.map((row) =>
      row.id === east
        ? { ...row, values: { ...row.values, title: 'East' } }
        : { ...row, values: { ...row.values, title: 'Else' } },
    );
    const condition: Cascade['condition'] = { ...isEast, right: { kind: 'constant', value: 'East' } };
    const desk = new Desk([{ ...dealings, condition }], named).run([
      edit('institution', trust, { dealings: 'past' }),
    ]);
    expect(all(desk)).toEqual(['past', 'past', 'none', 'past', 'past', 'none']);
  });

  test('goes 10,000 levels down', () => {
    const idOf = (at: number) => uuid(String(20_000 + at));
    const deep = Array.from({ length: 10_000 }, (_, at) =>
      rowOf(model, 'institution', idOf(at), { partOf: at === 0 ? null : idOf(at - 1), dealings: 'none' }),
    );
    const desk = new Desk([dealings], deep).run([edit('institution', idOf(0), { dealings: 'active' })]);
    expect(desk.at('institution', idOf(9_999), 'dealings')).toBe('active');
  });

  test('only over one link of a type to itself, and on change', () => {
    for (const wrong of [
      { route: [up('partOf')] },
      { moment: 'atCreation' as const },
      { type: 'exhibition', route: [down('loan', 'exhibition')] },
    ])
      expect(
        buildPlan(model, numbered([{ ...dealings, ...wrong }])).problems.map(({ code }) => code),
      ).toContain('cascade.allTheWay');
  });
});

describe('two rules on one field', () => {
  const site = cascade({
    ...{
      type: 'exhibition',
      route: [down('loan', 'exhibition')],
      assignments: [fixed('coordinator', 'On site')],
    },
    moment: when({ kind: 'became', field: 'phase', value: 'open' }),
  });
  const problemsOf = (...cascades: Cascade[]) => buildPlan(model, numbered(cascades)).problems;

  test('say which comes first; the other gives way and is reported, whatever the order of the rules', () => {
    expect(problemsOf(CASCADES.coordinator, site)).toMatchObject([
      { code: 'plan.precedence', place: 'precedence' },
      { code: 'plan.precedence', place: 'precedence' },
    ]);
    const both = edit('exhibition', silk, { coordinator: 'Priya', phase: 'open' });
    for (const [rules, expected] of [
      [[{ ...CASCADES.coordinator, precedence: 1 }, site], 'Priya'],
      [[site, { ...CASCADES.coordinator, precedence: 1 }], 'Priya'],
      [[CASCADES.coordinator, { ...site, precedence: 2 }], 'On site'],
    ] as const) {
      const desk = new Desk(rules).run([both]);
      expect(desk.loans('coordinator')).toEqual([expected, expected, expected]);
      expect(
        desk.ripple!.changes.filter(({ field, type }) => type === 'loan' && field === 'coordinator'),
      ).toHaveLength(3);
      const [overruled] = desk.ripple!.overruled;
      expect(desk.ripple!.overruled).toHaveLength(3);
      expect(overruled!.value).toBe(expected === 'Priya' ? 'On site' : 'Priya');
      expect(overruled!.by).not.toBe(overruled!.rule);
      desk.run([edit('exhibition', silk, { phase: 'confirmed' })]);
      desk.run([edit('exhibition', silk, { phase: 'open' })]);
      expect(desk.at('loan', pots, 'coordinator')).toBe('On site');
    }
  });

  test('the first stands where its value is there already, and where a person entered another', () => {
    const desk = new Desk([{ ...CASCADES.coordinator, precedence: 1 }, site]);
    desk.run([edit('loan', robes, { coordinator: 'Priya' })]);
    desk.run([
      edit('exhibition', silk, { coordinator: 'Priya', phase: 'open' }),
      edit('loan', kites, { coordinator: 'Mine' }),
    ]);
    expect(desk.loans('coordinator')).toEqual(['Priya', 'Priya', 'Mine']);
    expect(desk.ripple!.overruled.filter(({ id }) => id === kites).map(({ by }) => by)).toEqual([
      undefined,
      undefined,
    ]);
  });

  test('need none where it can be seen that only one of them acts', () => {
    const stage = (value: string): Cascade['condition'] => ({
      ...{ kind: 'compare', operator: '=', left: { kind: 'field', route: [], field: 'stage' } },
      right: { kind: 'constant', value },
    });
    const closing = { ...site, moment: when({ kind: 'became', field: 'phase', value: 'confirmed' }) };
    expect(problemsOf(site, closing)).toEqual([]);
    expect(
      problemsOf(
        { ...CASCADES.coordinator, condition: stage('agreed') },
        { ...site, condition: stage('declined') },
      ),
    ).toEqual([]);
    expect(
      problemsOf(
        { ...CASCADES.coordinator, condition: stage('agreed') },
        { ...site, condition: stage('agreed') },
      ),
    ).toHaveLength(2);
    const desk = new Desk([
      { ...CASCADES.coordinator, condition: stage('agreed') },
      { ...site, condition: stage('declined') },
    ]);
    desk.run([edit('exhibition', silk, { coordinator: 'Priya', phase: 'open' })]);
    expect(desk.loans('coordinator')).toEqual(['Priya', 'On site', 'Priya']);
  });
});

describe('kept in step', () => {
  const desk = () => new Desk([CASCADES.climate]).run([], { fill: [uuid('a1')] });

  test('all loans have it but those that the condition leaves out; a new and a moved one too', () => {
    const at = desk();
    expect(at.loans('climate')).toEqual(['Dry', null, 'Dry']);
    at.run([edit('exhibition', silk, { climate: 'Cold' }), create('loan', uuid('31'), { exhibition: silk })]);
    expect(at.loans('climate')).toEqual(['Cold', null, 'Cold']);
    expect(at.at('loan', uuid('31'), 'climate')).toBe('Cold');
    expect(at.run([edit('loan', robes, { exhibition: salt })]).at('loan', robes, 'climate')).toBe('Cool');
  });

  test('where it is kept people can’t enter it, by name; elsewhere they may, and what left keeps its value', () => {
    const at = desk().run([edit('loan', robes, { climate: 'Mine' })]);
    expect(at.refused).toContain('Climate requirement is kept in step here by the rule “Rule 1”');
    expect(at.run([edit('loan', robes, { climate: 'Dry' })]).refused).toBe('');
    expect(at.run([edit('loan', pots, { climate: 'Mine' })]).at('loan', pots, 'climate')).toBe('Mine');
    expect(at.run([edit('loan', robes, { stage: 'declined' })]).at('loan', robes, 'climate')).toBe('Dry');
    expect(at.run([edit('loan', pots, { stage: 'agreed' })]).at('loan', pots, 'climate')).toBe('Dry');
    expect(at.run([edit('loan', kites, { exhibition: null })]).at('loan', kites, 'climate')).toBe('Dry');
  });
});

describe('kept in step all the way down a link to itself', () => {
  const inStep = cascade({
    ...{ type: 'institution', route: [down('institution', 'partOf')], moment: 'inStep' },
    condition: {
      ...{ kind: 'compare', operator: '!=', left: { kind: 'field', route: [], field: 'title' } },
      right: { kind: 'constant', value: 'On its own' },
    },
    assignments: [from('dealings')],
  });
  const IDS = ['61', '62', '63', '64', '65', '66'].map(uuid);
  const [trust, museum, east, west, room, other] = IDS as [string, string, string, string, string, string];
  const standing: [string, string | null, string | null][] = [
    [trust, null, 'active'],
    [museum, trust, 'none'],
    [east, museum, null],
    [west, museum, 'past'],
    [room, east, 'talks'],
    [other, null, 'past'],
  ];
  const rows = standing.map(([id, partOf, dealings]) =>
    rowOf(model, 'institution', id, { partOf, dealings, title: 'T' }),
  );
  const begin = () => new Desk([inStep], rows).run([], { fill: [uuid('a1')] });
  const all = (desk: Desk) => IDS.map((id) => desk.at('institution', id, 'dealings'));

  test('everything beneath has what stands at the top, and follows it', () => {
    const desk = begin();
    expect(all(desk)).toEqual(['active', 'active', 'active', 'active', 'active', 'past']);
    desk.run([edit('institution', trust, { dealings: 'talks' })]);
    expect(all(desk)).toEqual(['talks', 'talks', 'talks', 'talks', 'talks', 'past']);
    expect(desk.ripple!.changes.map(({ id, wave }) => [id, wave])).toEqual([
      ...[
        [trust, 0],
        [museum, 1],
        [east, 2],
        [west, 2],
        [room, 3],
      ],
    ]);
  });

  test('a part that is moved takes what lies beneath it along, each once, whatever else changed', () => {
    const desk = begin().run([
      edit('institution', east, { partOf: other }),
      edit('institution', other, { dealings: 'none' }),
    ]);
    expect(all(desk)).toEqual(['active', 'active', 'none', 'active', 'none', 'none']);
    expect(new Set(desk.ripple!.changes.map(({ id, field }) => `${id} ${field}`)).size).toBe(
      desk.ripple!.changes.length,
    );
    desk.run([edit('institution', east, { partOf: null })]);
    desk.run([edit('institution', east, { dealings: 'past' })]);
    expect(desk.at('institution', room, 'dealings')).toBe('past');
  });

  test('where it doesn’t apply people enter it, and what lies beneath follows that', () => {
    const desk = begin().run([edit('institution', east, { title: 'On its own', dealings: 'past' })]);
    expect(all(desk)).toEqual(['active', 'active', 'past', 'active', 'past', 'past']);
    desk.run([edit('institution', trust, { dealings: 'none' })]);
    expect(all(desk)).toEqual(['none', 'none', 'past', 'none', 'past', 'past']);
    expect(desk.run([edit('institution', room, { dealings: 'none' })]).refused).toContain('kept in step');
  });

  test('goes 10,000 levels down', () => {
    const idOf = (at: number) => uuid(String(20_000 + at));
    const deep = Array.from({ length: 10_000 }, (_, at) =>
      rowOf(model, 'institution', idOf(at), { partOf: at === 0 ? null : idOf(at - 1), dealings: 'none' }),
    );
    const desk = new Desk([inStep], deep).run([edit('institution', idOf(0), { dealings: 'active' })]);
    expect(desk.at('institution', idOf(9_999), 'dealings')).toBe('active');
  });
});

test.each<[string, Cascade, string]>([
  [
    'a field that is gone',
    { ...CASCADES.coordinator, moment: when({ kind: 'changed', field: 'gone' }) },
    'has no field “gone” any more',
  ],
  [
    'another kind',
    { ...CASCADES.coordinator, assignments: [from('dueBack', 'title')] },
    'can’t be written into Due back',
  ],
  [
    'a text with a name that isn’t there',
    { ...CASCADES.note, assignments: [{ target: 'note', value: { kind: 'text', text: 'With {titel}' } }] },
    'titel',
  ],
  [
    'siblings kept in step with one another’s same field',
    { ...CASCADES.instruction, moment: 'inStep' },
    'each would wait for the others',
  ],
  [
    'a field twice',
    { ...CASCADES.coordinator, assignments: [from('coordinator'), from('coordinator', 'title')] },
    'assigns that field already',
  ],
  ['nothing', { ...CASCADES.coordinator, assignments: [] }, 'Assign at least one field'],
  ['a link', { ...CASCADES.coordinator, assignments: [from('lender', 'venue')] }, 'isn’t cascaded'],
  ['a way that isn’t there', { ...CASCADES.coordinator, route: [up('lender')] }, 'Choose to which records'],
  [
    'what can’t rise',
    { ...CASCADES.coordinator, moment: when({ kind: 'rose', field: 'coordinator' }) },
    'can’t rise or fall',
  ],
])('%s is found while writing', (_, definition, words) => {
  const { problems } = buildPlan(model, [ruleOf(definition, 1)]);
  expect(problems.map(({ message }) => message).join(' ')).toContain(words);
});

describe('across a bridge', () => {
  const [mia, tom] = [uuid('31'), uuid('32')];
  const assigned = (id: string, courier: string, note: string | null) =>
    rowOf(model, 'assignment', uuid(id), { title: id, courier, exhibition: silk, note });
  const rows = [
    ...ROWS,
    rowOf(model, 'courier', mia, { title: 'Mia' }),
    rowOf(model, 'courier', tom, { title: 'Tom' }),
    ...[assigned('41', mia, 'leads'), assigned('42', tom, null), assigned('43', mia, 'drives')],
  ];

  test('a text names the record on the way, of several the first that was made', () => {
    const desk = new Desk([CASCADES.told], rows).run([edit('exhibition', silk, { phase: 'open' })]);
    expect(desk.at('courier', mia, 'told')).toBe('With Rivers of Silk (leads)');
    expect(desk.at('courier', tom, 'told')).toBe('With Rivers of Silk ()');
  });

  test('a field that the bridge hasn’t is refused, and one of a bridge where none is crossed', () => {
    const says = (rule: Cascade, text: string) =>
      buildPlan(model, [
        ruleOf(
          {
            ...rule,
            assignments: [
              { target: rule === CASCADES.note ? 'note' : 'told', value: { kind: 'text', text } },
            ],
          },
          1,
        ),
      ]).problems.map(({ message }) => message);
    expect(says(CASCADES.told, '{assignment.colour}').join()).toContain(
      'Assignment has nothing called “colour”',
    );
    expect(says(CASCADES.note, '{assignment.note}').join()).toContain(
      'Exhibition has nothing called “assignment”',
    );
  });
});
