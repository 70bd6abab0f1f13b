import { readModel } from '@/core/model';
import { buildPlan } from '@/core/plan';
import type { Create, RuleDefinition } from '@/core/rules';
import { rollUp, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { inspections, LINE, takes, TREATMENT } from '@/core/testing/inspections';
import { create, edit, numbered, RuleDesk } from '@/core/testing/rule-desk';
import { Decimal } from '@/core/values';
import { type Edit, type Row } from '@/core/engine';

const model = inspections();
const [vase, robe, hoe] = [uuid('1'), uuid('2'), uuid('3')];
const [seen, filmed] = [uuid('11'), uuid('12')];

const remove = (type: string, id: string): Edit => ({ kind: 'delete', type, id });
const restore = (type: string, id: string): Edit => ({ kind: 'restore', type, id });

const ROWS = [
  rowOf(model, 'artefact', vase, {
    title: 'Vase',
    sort: 'tool',
    maker: 'Anning',
    worth: new Decimal(10),
    number: new Decimal(7),
  }),
  rowOf(model, 'artefact', robe, { title: 'Robe', sort: 'tool' }),
  rowOf(model, 'artefact', hoe, { title: 'Hoe', sort: 'tool' }),
  rowOf(model, 'inspection', seen, {
    artefact: vase,
    remark: 'Cracked',
    outcome: 'watch',
    byPhoto: false,
  }),
  rowOf(model, 'inspection', filmed, { artefact: vase, outcome: 'watch', byPhoto: true }),
];

class Desk extends RuleDesk {
  constructor(rules: readonly RuleDefinition[]) {
    super(model, numbered(rules), ROWS);
  }

  all(type: string): Row[] {
    return [...this.store.rows(type)].filter(({ deleted }) => !deleted);
  }
}

const made = (type: string, desk: Desk) => desk.all(type).map(({ values }) => values);
const damage = edit('inspection', seen, { outcome: 'damage' });

describe('one for each record that comes to meet the condition', () => {
  test('is made once, with its fields, its default, its number and its link', () => {
    const desk = new Desk([TREATMENT]).run([damage]);
    expect(made('treatment', desk)).toEqual([
      expect.objectContaining({
        ...{ title: 'Treat Vase', artefact: vase, inspection: seen, cause: 'Cracked', state: 'planned' },
        number: new Decimal(1),
      }),
    ]);
    expect(desk.ripple!.events).toEqual([
      expect.objectContaining({
        ...{ kind: 'created', type: 'treatment', wave: 1, rule: ruleOf(TREATMENT, 1).id },
        causes: [{ type: 'inspection', id: seen, field: 'outcome' }],
      }),
    ]);
    desk
      .run([edit('inspection', seen, { remark: 'Worse' })])
      .run([edit('inspection', seen, { outcome: 'watch' })])
      .run([damage]);
    expect(desk.all('treatment')).toHaveLength(1);
    expect(made('treatment', desk)[0]!.cause).toBe('Cracked');
  });

  test('isn’t made by one that doesn’t meet it, nor where it came back from the bin', () => {
    const desk = new Desk([TREATMENT]).run([edit('inspection', filmed, { outcome: 'damage' })]);
    expect(desk.all('treatment')).toEqual([]);
    desk.run([remove('inspection', seen)]);
    desk.store.put({
      ...desk.store.row('inspection', seen)!,
      values: { ...desk.store.row('inspection', seen)!.values, outcome: 'damage' },
    });
    expect(desk.run([restore('inspection', seen)]).all('treatment')).toEqual([]);
  });

  test('is made by one that is made meeting it', () => {
    const desk = new Desk([TREATMENT]).run([
      create('inspection', uuid('13'), { artefact: vase, outcome: 'damage', byPhoto: false }),
    ]);
    expect(made('treatment', desk)).toEqual([
      expect.objectContaining({ inspection: uuid('13'), artefact: vase }),
    ]);
  });

  test('stays in the bin where a person put it there', () => {
    const desk = new Desk([TREATMENT]).run([damage]);
    desk.run([remove('treatment', desk.all('treatment')[0]!.id)]);
    desk.run([edit('inspection', seen, { outcome: 'watch' })]).run([damage]);
    expect(desk.all('treatment')).toEqual([]);
  });

  test('nothing is made where a run is undone', () => {
    const desk = new Desk([TREATMENT]);
    expect(desk.back('inspection', seen, { outcome: 'damage' }).all('treatment')).toEqual([]);
  });

  test('feeds roll-ups and cascades, whose values its own stand against, but not its defaults', () => {
    const count = rollUp({
      ...{ type: 'artefact', target: 'treatments', aggregate: 'count', value: null, whenNone: '0' },
      route: [{ direction: 'down', type: 'treatment', link: 'artefact' }],
    });
    const desk = new Desk([
      count,
      TREATMENT,
      {
        ...{ kind: 'cascade', type: 'artefact', condition: null, pace: 'withTheSave', moment: 'atCreation' },
        route: [{ direction: 'down', type: 'treatment', link: 'artefact' }],
        assignments: [
          takes('cause', 'maker'),
          {
            target: 'state',
            value: { kind: 'expression', expression: { kind: 'constant', value: 'dropped' } },
          },
        ],
      },
    ]).run([damage]);
    expect(desk.at('artefact', vase, 'treatments')).toEqual(new Decimal(1));
    expect(made('treatment', desk)[0]).toMatchObject({ cause: 'Cracked', state: 'dropped' });
    expect(desk.ripple!.overruled).toHaveLength(1);
  });
});

test('one each time is made again whenever the condition comes to hold', () => {
  const desk = new Desk([{ ...TREATMENT, each: 'everyTime' }]).run([damage]);
  desk.run([edit('inspection', seen, { outcome: 'watch' })]).run([damage]);
  expect(desk.all('treatment')).toHaveLength(2);
});

test('a person may make it in the rule’s place, once', () => {
  const desk = new Desk([{ ...LINE, pace: { kind: 'onRequest', field: null } }]);
  const madeFor = { rule: ruleOf(LINE, 1).id, source: vase };
  const byHand = (id: string): Edit =>
    ({ ...create('line', uuid(id), { maker: 'Mine', artefact: vase }), madeFor }) as Edit;
  desk.run([edit('artefact', vase, { sort: 'painting' })]);
  expect(desk.all('line')).toEqual([]);
  desk.run([byHand('31')]);
  expect(desk.at('artefact', vase, 'line')).toBe(uuid('31'));
  expect(desk.run([byHand('32')]).refused).toMatch(/made its Line for “Vase” already/);
});

test('is made for all that it is asked for, where they meet the condition and have none', () => {
  const desk = new Desk([{ ...LINE, pace: { kind: 'timetable', every: 'day', at: '06:00' } }]);
  desk.run([edit('artefact', vase, { sort: 'painting' })]);
  const asked = new Map([[ruleOf(LINE, 1).id, [vase, robe]]]);
  expect(desk.run([], { asked }).all('line')).toHaveLength(1);
  expect(desk.run([], { asked }).all('line')).toHaveLength(1);
});

describe('by the option of the record', () => {
  const painted = (sort: string, id = vase) => new Desk([LINE]).run([edit('artefact', id, { sort })]);

  test('directly, with each other’s number', () => {
    const desk = painted('painting');
    const [line] = desk.all('line') as [Row];
    expect(line.values).toMatchObject({ maker: 'Anning', artefactNumber: 'N-007', artefact: vase });
    expect(desk.at('artefact', vase, 'line')).toBe(line.id);
    expect(desk.at('artefact', vase, 'lineNumber')).toBe('N-001');
    expect(desk.ripple!.proposals).toEqual([]);
  });

  test('as a proposal, which leaves everything as it is', () => {
    const desk = painted('textile');
    expect(desk.all('line')).toEqual([]);
    expect(desk.ripple!.proposals).toEqual([
      expect.objectContaining({
        kind: 'make',
        source: { type: 'artefact', id: vase },
        isDone: false,
        missing: [],
      }),
    ]);
  });

  test('at once, and people are told', () => {
    const desk = painted('paper');
    expect(desk.all('line')).toHaveLength(1);
    expect(desk.ripple!.proposals).toEqual([expect.objectContaining({ kind: 'make', isDone: true })]);
  });

  test('not at all', () => {
    const desk = painted('tool');
    expect([desk.all('line'), desk.ripple!.proposals]).toEqual([[], []]);
  });
});

test('what lacks a required value, or has one that is taken, is proposed by name', () => {
  const desk = new Desk([{ ...LINE, assignments: [takes('title', 'maker'), takes('policy', 'maker')] }]);
  desk.run([edit('artefact', robe, { sort: 'painting' })]);
  expect(desk.ripple!.proposals).toEqual([
    expect.objectContaining({ missing: [{ field: 'title', reason: 'empty' }], isDone: false }),
  ]);
  desk
    .run([create('line', uuid('40'), { policy: 'Anning' })])
    .run([edit('artefact', vase, { sort: 'painting' })]);
  expect(desk.ripple!.proposals).toEqual([
    expect.objectContaining({ missing: [{ field: 'policy', reason: 'taken' }] }),
  ]);
});

describe('what was made and what it was made for', () => {
  const inStep = (given: Partial<Create> = {}) => {
    const desk = new Desk([{ ...LINE, ...given }]).run([edit('artefact', vase, { sort: 'painting' })]);
    return { desk, line: desk.all('line')[0]!.id };
  };

  test('follow one another', () => {
    const { desk, line } = inStep();
    expect(desk.run([edit('artefact', vase, { worth: new Decimal(20) })]).at('line', line, 'worth')).toEqual(
      new Decimal(20),
    );
    expect(desk.run([edit('line', line, { maker: 'Brandt' })]).at('artefact', vase, 'maker')).toBe('Brandt');
    expect(desk.ripple!.changes.at(-1)).toMatchObject({
      type: 'artefact',
      causes: [{ type: 'line', id: line, field: 'maker' }],
    });
  });

  test('the rule’s own side stands where both changed, and that is reported', () => {
    const { desk, line } = inStep();
    desk.run([edit('artefact', vase, { maker: 'Curie' }), edit('line', line, { maker: 'Brandt' })]);
    expect([desk.at('line', line, 'maker'), desk.at('artefact', vase, 'maker')]).toEqual(['Curie', 'Curie']);
    expect(desk.ripple!.overruled).toEqual([
      expect.objectContaining({ type: 'line', field: 'maker', value: 'Brandt', isEntered: true }),
    ]);
  });

  test('one way, what follows can’t be entered', () => {
    const { desk, line } = inStep({ returning: 'not' });
    expect(desk.run([edit('line', line, { maker: 'Brandt' })]).refused).toMatch(
      /Maker is kept in step by the rule/,
    );
    expect(desk.run([edit('line', line, { policy: 'P1' })]).refused).toBe('');
  });

  test('what can’t go back can’t be entered either: a title that must be there, and what is worked out', () => {
    const { desk, line } = inStep();
    expect(desk.run([edit('line', line, { title: 'Jug' })]).refused).toMatch(
      /Title is kept in step by the rule/,
    );
    expect(desk.run([edit('line', line, { artefactNumber: 'N-9' })]).refused).toMatch(/kept in step/);
    expect(desk.run([edit('artefact', vase, { title: 'Jug' })]).at('line', line, 'title')).toBe('Jug');
  });

  test('as a proposal in either direction', () => {
    const { desk, line } = inStep({ following: 'proposal', returning: 'proposal' });
    desk.run([edit('artefact', vase, { worth: new Decimal(20) })]);
    expect(desk.at('line', line, 'worth')).toEqual(new Decimal(10));
    expect(desk.ripple!.proposals).toEqual([
      expect.objectContaining({
        kind: 'follow',
        target: { type: 'line', id: line },
        values: { worth: new Decimal(20) },
      }),
    ]);
    desk.run([edit('line', line, { maker: 'Brandt' })]);
    expect(desk.ripple!.proposals).toEqual([
      expect.objectContaining({
        kind: 'return',
        target: { type: 'artefact', id: vase },
        values: { maker: 'Brandt' },
      }),
    ]);
  });

  test('are left alone where it says so', () => {
    const { desk, line } = inStep({ following: 'not', returning: 'not' });
    desk.run([edit('artefact', vase, { maker: 'Curie' })]);
    expect(desk.at('line', line, 'maker')).toBe('Anning');
  });
});

describe('once the record no longer meets the condition', () => {
  const left = (afterwards: Create['afterwards'], given: Partial<Create> = {}) => {
    const desk = new Desk([{ ...LINE, ...given, afterwards }]).run([
      edit('artefact', vase, { sort: 'painting' }),
    ]);
    const { id } = desk.all('line')[0]!;
    return { desk: desk.run([edit('artefact', vase, { sort: 'tool' })]), id };
  };

  test('what was made is left', () => {
    const { desk, id } = left('left');
    expect(desk.at('line', id, 'artefact')).toBe(vase);
  });

  test('marked', () => {
    const { desk, id } = left({ kind: 'marked', field: 'policy', value: 'Ended' });
    expect(desk.at('line', id, 'policy')).toBe('Ended');
  });

  test('unlinked both ways', () => {
    const { desk, id } = left('unlinked');
    expect([desk.at('line', id, 'artefact'), desk.at('artefact', vase, 'line')]).toEqual([null, null]);
  });

  test('put into the bin, from which it comes back with it', () => {
    const { desk, id } = left('removed');
    expect(desk.store.row('line', id)!.deleted).toBe(true);
    desk.run([edit('artefact', vase, { sort: 'painting', maker: 'Curie' })]);
    expect([
      desk.store.row('line', id)!.deleted,
      desk.at('line', id, 'maker'),
      desk.all('line').length,
    ]).toEqual([false, 'Curie', 1]);
  });

  test('what went since the condition was left doesn’t come back with a record that goes and comes back', () => {
    const desk = new Desk([LINE]).run([edit('artefact', vase, { sort: 'painting' })]);
    desk.run([edit('artefact', vase, { sort: 'tool' })]);
    desk.run([remove('artefact', vase)]).run([restore('artefact', vase)]);
    expect(desk.all('line')).toEqual([]);
    desk.run([edit('artefact', vase, { sort: 'painting' })]);
    expect(desk.all('line')).toHaveLength(1);
  });

  test('it goes with a record that goes, and comes back with that', () => {
    const desk = new Desk([{ ...LINE, back: null }]).run([edit('artefact', vase, { sort: 'painting' })]);
    const { id } = desk.all('line')[0]!;
    desk.run([remove('artefact', vase)]);
    expect(desk.store.row('line', id)!.deleted).toBe(true);
    desk.run([restore('artefact', vase)]);
    expect([desk.refused, desk.store.row('line', id)!.deleted]).toEqual(['', false]);
  });
});

describe('is refused while it is written', () => {
  const problems = (given: Partial<Create>, base = LINE, others: readonly RuleDefinition[] = []) =>
    buildPlan(model, numbered([{ ...base, ...given }, ...others])).problems.map(
      ({ place, message }) => `${place}: ${message}`,
    );

  test.each<[string, Partial<Create>, RegExp]>([
    ['a link that leads elsewhere', { back: 'maker' }, /^links: Line has no such link to Artefact/],
    [
      'a required field that nothing gives',
      { assignments: [] },
      /^assignments: Title of Line must be entered/,
    ],
    [
      'a serial number that is assigned',
      { assignments: [takes('title', 'title'), takes('number', 'worth')] },
      /serial number/,
    ],
    [
      'a value of another kind',
      { assignments: [takes('title', 'title'), takes('worth', 'maker')] },
      /can’t be written into Worth/,
    ],
    [
      'a field twice',
      { assignments: [takes('title', 'title'), takes('title', 'maker')] },
      /assigns that field already/,
    ],
    [
      'ways by a field that isn’t a choice',
      { making: { field: 'maker', rows: [], otherwise: 'directly' } },
      /^making: Choose a choice/,
    ],
    [
      'changes that go back but don’t follow',
      { following: 'not' },
      /^returning: Changes go back only where they also follow/,
    ],
    [
      'nothing that could go back',
      { assignments: [takes('title', 'title')] },
      /^returning: None of the values/,
    ],
    ['soon after', { pace: 'soonAfter' }, /^pace: A record is made with the save/],
    [
      'one each time for all at set times',
      { each: 'everyTime', condition: null, pace: { kind: 'timetable', every: 'day', at: '06:00' } },
      /^condition: At set times/,
    ],
    [
      'a mark that isn’t there',
      { afterwards: { kind: 'marked', field: 'gone', value: 'x' } },
      /^afterwards: Choose the field/,
    ],
  ])('%s', (_name, given, message) => {
    expect(problems(given).join('\n')).toMatch(message);
  });

  test('a condition that turns with the day needs no advice: the day makes it hold', () => {
    const dated: Create = {
      ...TREATMENT,
      condition: { kind: 'feel', text: 'day < today()' },
    };
    const withDay = readModel(model, '2027-03-01');
    const adviceOf = (rule: Create) => buildPlan(withDay, [ruleOf(rule, 1)]).advice.map(({ code }) => code);
    expect(adviceOf(dated)).toEqual([]);
  });

  test('one that would make itself again', () => {
    const again: Create = {
      ...TREATMENT,
      makes: 'inspection',
      back: null,
      condition: null,
      assignments: [takes('title', 'title')],
    };
    expect(problems({}, again).join('\n')).toMatch(/These rules run in a circle: .* makes Inspections/);
  });

  test('a value that another rule keeps', () => {
    const kept: RuleDefinition = {
      ...{
        kind: 'formula',
        type: 'line',
        target: 'maker',
        appliesWhen: null,
        otherwise: null,
        rounding: null,
      },
      ...{ value: { kind: 'constant', value: 'X' }, pace: 'withTheSave' },
    };
    expect(problems({}, LINE, [kept]).join('\n')).toMatch(/Maker of Line is kept by/);
  });
});
