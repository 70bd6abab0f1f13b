import type { Edit, Row, RunOutcome } from '@/core/engine';
import type { Expression } from '@/core/expression';
import { type Field, type Model, readModel, type RecordType, type Step } from '@/core/model';
import { buildPlan } from '@/core/plan';
import type { Assignment, Cascade, Create, LinkRule, RollUp, Rule, RuleDefinition } from '@/core/rules';
import type { Value } from '@/core/values';
import { decimal, rowOf, uuid } from './galleries';
import { create, edit, numbered } from './rule-desk';
import type { OpenStore, StoreHarness } from './store-contract';

const text = (key: string, name: string): Field => ({ key, name, type: { kind: 'text' } });
const number = (key: string, name: string): Field => ({ key, name, type: { kind: 'number', scale: 1 } });
const yesNo = (key: string, name: string): Field => ({ key, name, type: { kind: 'yesNo' } });
const choice = (key: string, name: string, options: readonly string[]): Field => ({
  ...{ key, name, type: { kind: 'choice', options: options.map((of) => ({ key: of, name: of })) } },
});
const link = (key: string, name: string, target: string, whenParentGoes: Field['whenParentGoes']): Field => ({
  ...{ key, name, type: { kind: 'link', target }, otherEnd: `${name} of` },
  ...(whenParentGoes ? { whenParentGoes } : {}),
});
const typeOf = (key: string, fields: readonly Field[]): RecordType => ({
  ...{ key, name: key, plural: `${key}s`, title: 'title' },
  fields: [{ ...text('title', 'Title'), required: true }, ...fields],
});

/** Customers with jobs, tools that jobs are done with, and tickets that are written for jobs. */
const workshop = (): Model =>
  readModel({
    types: [
      typeOf('customer', [
        yesNo('vip', 'VIP'),
        text('word', 'Word'),
        number('hours', 'Hours'),
        choice('mood', 'Mood', ['calm', 'cross']),
        link('under', 'Under', 'customer', 'clear'),
      ]),
      typeOf('tool', [text('code', 'Code')]),
      typeOf('job', [
        link('customer', 'Customer', 'customer', 'delete'),
        link('tool', 'Tool', 'tool', 'clear'),
        text('code', 'Code'),
        choice('stage', 'Stage', ['open', 'late', 'done']),
        number('hours', 'Hours'),
        number('billed', 'Billed'),
        yesNo('vip', 'VIP'),
        text('greeting', 'Greeting'),
        text('heard', 'Heard'),
      ]),
      typeOf('ticket', [link('job', 'Job', 'job', 'refuse'), number('hours', 'Hours')]),
    ],
  });

const own = (field: string, ...route: string[]): Expression => ({ kind: 'field', route, field });
const is = (field: string, value: string | boolean): Expression => ({
  ...{ kind: 'compare', operator: '=', left: own(field), right: { kind: 'constant', value } },
});
const down = (type: string, of: string): Step => ({ direction: 'down', type, link: of });
const takes = (target: string, field: string): Assignment => ({
  ...{ target, value: { kind: 'expression', expression: own(field) } },
});

const HOURS: RollUp = {
  ...{ kind: 'rollUp', type: 'customer', target: 'hours', aggregate: 'sum', value: own('hours') },
  ...{ route: [down('job', 'customer')], condition: is('stage', 'done'), whenNone: '0.0' },
  ...{ rounding: null, pace: 'withTheSave' },
};
/** Reacts: a customer with a late job is cross, and stays so until somebody says otherwise. */
const MOOD: RollUp = {
  ...{ kind: 'rollUp', type: 'customer', target: 'mood', aggregate: 'any', value: is('stage', 'late') },
  ...{
    route: [down('job', 'customer')],
    condition: null,
    whenNone: null,
    rounding: null,
    pace: 'withTheSave',
  },
  map: { rows: [{ operator: '=', than: true, writes: 'cross' }], otherwise: { kind: 'asItIs' } },
};
/** A rival of it: a customer for whom something is done is calm. */
const CALMED: RollUp = {
  ...{ ...MOOD, value: is('stage', 'done'), precedence: 2 },
  map: { rows: [{ operator: '=', than: true, writes: 'calm' }], otherwise: { kind: 'asItIs' } },
};
/** Can't be worked out for a job without hours, and reacts. */
const RATE: RuleDefinition = {
  ...{ kind: 'formula', type: 'job', target: 'billed', value: { kind: 'feel', text: '1 / hours' } },
  ...{ appliesWhen: null, otherwise: null, rounding: { places: 1, mode: 'up' }, pace: 'withTheSave' },
};
const RATED: RollUp = {
  ...{ ...MOOD, aggregate: 'sum', value: own('billed') },
  map: { rows: [{ operator: '>', than: '100.0', writes: 'cross' }], otherwise: { kind: 'asItIs' } },
};
const BILLED: RuleDefinition = {
  ...{ kind: 'formula', type: 'job', target: 'billed', value: { kind: 'feel', text: 'hours * 2' } },
  ...{ appliesWhen: is('vip', true), otherwise: { kind: 'feel', text: 'hours * 3' } },
  ...{ rounding: null, pace: 'withTheSave' },
};
const cascade = (
  moment: Cascade['moment'],
  assignment: Assignment,
  more: Partial<Cascade> = {},
): Cascade => ({
  ...{ kind: 'cascade', type: 'customer', route: [down('job', 'customer')], condition: null, moment },
  ...{ assignments: [assignment], pace: 'withTheSave', ...more },
});
const VIP = cascade('inStep', takes('vip', 'vip'));
const GREETING = cascade('atCreation', takes('greeting', 'word'));
const HEARD = cascade(
  { kind: 'onChange', tests: [{ kind: 'changed', field: 'word' }], where: null },
  takes('heard', 'word'),
  { precedence: 1 },
);
/** A rival of it: on a VIP's change it writes the customer's name, where the other gave nothing. */
const TITLE_HEARD = cascade(
  { kind: 'onChange', tests: [{ kind: 'changed', field: 'vip' }], where: null },
  takes('heard', 'title'),
  { precedence: 2 },
);
/** Several jobs may cascade to a customer: the longest does. */
const LONGEST = cascade('inStep', takes('word', 'title'), {
  ...{ type: 'job', route: [{ direction: 'up', link: 'customer' }] },
  order: { field: { kind: 'field', route: [], field: 'hours' }, isLast: true },
});
/** From customers to those under them, all the way down. */
const VIP_DOWN = cascade('inStep', takes('vip', 'vip'), { route: [down('customer', 'under')] });
/** A job that becomes late tells its customer. */
const LATE = cascade(
  { kind: 'onChange', tests: [{ kind: 'became', field: 'stage', value: 'late' }], where: null },
  takes('word', 'title'),
  {
    type: 'job',
    route: [{ direction: 'up', link: 'customer' }],
    ...(LONGEST.order ? { order: LONGEST.order } : {}),
  },
);
/** What a job hears goes back to its customer: with `HEARD` a circle that settles. */
const BACK = cascade(
  { kind: 'onChange', tests: [{ kind: 'changed', field: 'heard' }], where: null },
  takes('word', 'heard'),
  { type: 'job', route: [{ direction: 'up', link: 'customer' }] },
);
/** The mean hours of all jobs of customers beneath, at any depth. */
const BENEATH: RollUp = {
  ...{ kind: 'rollUp', type: 'customer', target: 'hours', aggregate: 'average', value: own('hours') },
  route: [{ direction: 'down', type: 'customer', link: 'under', isAllTheWay: true }, down('job', 'customer')],
  ...{ condition: null, whenNone: null, rounding: null, pace: 'withTheSave' },
};
const TOOL: LinkRule = {
  ...{ kind: 'link', type: 'job', target: 'tool', appliesWhen: null, holds: 'whereEmpty', none: 'leave' },
  find: {
    ...{ kind: 'match', keys: [{ field: 'code', value: own('code') }], ignoresCase: true, condition: null },
    ...{ several: 'first', order: null },
  },
  pace: 'withTheSave',
};
const TICKET: Create = {
  ...{ kind: 'create', type: 'job', makes: 'ticket', pace: 'withTheSave', each: 'once' },
  ...{ condition: is('stage', 'late'), back: 'job', forward: null },
  assignments: [takes('title', 'title'), takes('hours', 'hours')],
  ...{ making: 'directly', following: 'directly', returning: 'not', afterwards: 'removed' },
};

const [ada, bo] = [uuid('1'), uuid('2')];
const [saw, file] = [uuid('11'), uuid('12')];
const [shelf, bench, stool] = [uuid('21'), uuid('22'), uuid('23')];

function someRows(model: Model): Row[] {
  const job = (id: string, title: string, customer: string, stage: string, hours: number) =>
    rowOf(model, 'job', id, { title, customer, stage, hours: decimal(hours) });
  return [
    rowOf(model, 'customer', ada, { title: 'Ada', vip: true, word: 'hello', mood: 'calm' }),
    rowOf(model, 'customer', bo, { title: 'Bo', vip: false, word: 'hm', mood: 'calm' }),
    rowOf(model, 'tool', saw, { title: 'Saw', code: 'SAW' }),
    rowOf(model, 'tool', file, { title: 'File', code: 'FILE' }),
    job(shelf, 'Shelf', ada, 'done', 2),
    job(bench, 'Bench', ada, 'open', 5),
    job(stool, 'Stool', bo, 'open', 1),
  ];
}

/** What every store must do by each kind of rule, kept and reacting; a save is one run through all of them. */
export function testKinds(name: string, harness: StoreHarness): void {
  const model = workshop();

  interface Desk {
    save(...edits: readonly Edit[]): Promise<RunOutcome>;
    at(id: string, field: string): Promise<Value>;
    /** What was made for a job and is there. */
    tickets(job: string): Promise<Row[]>;
  }

  async function withRules(
    rules: readonly (RuleDefinition | Pick<Rule, 'definition' | 'pilot'>)[],
    test: (desk: Desk) => Promise<void>,
  ): Promise<void> {
    const given = numbered(rules.map((one) => ('definition' in one ? one.definition : one))).map(
      (rule, at): Rule => {
        const one = rules[at];
        return one && 'definition' in one ? { ...rule, pilot: one.pilot ?? null } : rule;
      },
    );
    const { plan, problems } = buildPlan(model, given);
    expect(problems).toEqual([]);
    const store: OpenStore = await harness.open({ model, rules: given, plan, rows: someRows(model) });
    const rowIn = async (id: string) => (await store.rows()).find((row) => row.id === id);
    try {
      await test({
        save: (...edits) => store.save(edits),
        at: async (id, field) => (await rowIn(id))?.values[field] ?? null,
        tickets: async (job) =>
          (await store.rows()).filter(
            (row) => row.type === 'ticket' && !row.deleted && row.values['job'] === job,
          ),
      });
    } finally {
      await store.close();
    }
  }
  const changesOf = (outcome: RunOutcome) => {
    if (outcome.kind === 'refused') throw new Error(outcome.problems.map(({ message }) => message).join(' '));
    return outcome.ripple.changes.filter(({ rule }) => rule !== null);
  };
  const refused = (outcome: RunOutcome) =>
    outcome.kind === 'refused' ? outcome.problems.map(({ code }) => code) : [];

  describe(`${name}: each kind of rule`, () => {
    test('a roll-up keeps its field with every change beneath it', () =>
      withRules([HOURS], async ({ save, at }) => {
        expect(await at(ada, 'hours')).toEqual(decimal(2));
        const changes = changesOf(await save(edit('job', bench, { stage: 'done' })));
        if (!harness.tellsNumbers)
          expect(changes).toMatchObject([{ type: 'customer', id: ada, field: 'hours' }]);
        expect(await at(ada, 'hours')).toEqual(decimal(7));
        changesOf(
          await save(edit('job', bench, { customer: bo }), { kind: 'delete', type: 'job', id: shelf }),
        );
        expect([await at(ada, 'hours'), await at(bo, 'hours')]).toEqual([decimal(0), decimal(5)]);
      }));

    test('a roll-up that reacts acts where its result changed, and leaves what people enter afterwards', () =>
      withRules([MOOD], async ({ save, at }) => {
        changesOf(await save(edit('job', bench, { stage: 'late' })));
        expect([await at(ada, 'mood'), await at(bo, 'mood')]).toEqual(['cross', 'calm']);
        changesOf(await save(edit('customer', ada, { mood: 'calm' })));
        changesOf(await save(edit('job', shelf, { hours: decimal(3) })));
        expect(await at(ada, 'mood')).toBe('calm');
        changesOf(await save(edit('job', bench, { stage: 'done' }), edit('job', shelf, { stage: 'late' })));
        expect(await at(ada, 'mood')).toBe('calm');
      }));

    test('of two roll-ups that react into one field each goes by what it gave itself before', () =>
      withRules([{ ...MOOD, precedence: 1 }, CALMED], async ({ save, at }) => {
        changesOf(await save(edit('job', bench, { stage: 'late' })));
        expect(await at(ada, 'mood')).toBe('cross');
        changesOf(await save(edit('job', stool, { stage: 'late' })));
        changesOf(await save(edit('job', stool, { stage: 'done' })));
        expect([await at(ada, 'mood'), await at(bo, 'mood')]).toEqual(['cross', 'calm']);
      }));

    test('where a rule that reacts can’t tell what to do on several records, the first of them is named', () =>
      withRules([RATE, RATED], async ({ save, at }) => {
        const without = (job: string) => edit('job', job, { hours: decimal(0) });
        const outcome = await save(without(stool), without(bench));
        expect(refused(outcome)).toEqual(['rule.reaction']);
        expect(outcome).toMatchObject({ problems: [{ message: expect.stringContaining('“Ada”') }] });
        expect(await at(bench, 'billed')).toEqual(decimal('0.2'));
      }));

    test('a formula is worked out where it applies and otherwise, also from what a cascade keeps in step', () =>
      withRules([VIP, BILLED], async ({ save, at }) => {
        expect([await at(shelf, 'billed'), await at(stool, 'billed')]).toEqual([decimal(4), decimal(3)]);
        changesOf(
          await save(edit('customer', bo, { vip: true }), edit('job', stool, { hours: decimal('1.5') })),
        );
        expect([await at(stool, 'vip'), await at(stool, 'billed')]).toEqual([true, decimal(3)]);
        // Under nobody nothing is kept in step: what stands there stands, until somebody enters another.
        changesOf(await save(edit('job', stool, { customer: null })));
        expect([await at(stool, 'vip'), await at(stool, 'billed')]).toEqual([true, decimal(3)]);
        changesOf(await save(edit('job', stool, { vip: false })));
        expect(await at(stool, 'billed')).toEqual(decimal('4.5'));
      }));

    test('cascades write in step, at creation and on change, each at its moment only', () =>
      withRules([VIP, GREETING, HEARD], async ({ save, at }) => {
        const made = uuid('31');
        changesOf(await save(create('job', made, { customer: ada, title: 'Desk' })));
        expect([await at(made, 'vip'), await at(made, 'greeting'), await at(made, 'heard')]).toEqual([
          ...[true, 'hello', null],
        ]);
        changesOf(await save(edit('customer', ada, { word: 'good day' })));
        expect([await at(made, 'greeting'), await at(made, 'heard')]).toEqual(['hello', 'good day']);
        expect(await at(stool, 'heard')).toBeNull();
        expect(refused(await save(edit('job', made, { vip: false })))).toEqual(['edit.kept']);
        changesOf(await save(edit('job', shelf, { customer: bo })));
        expect([await at(shelf, 'vip'), await at(shelf, 'greeting')]).toEqual([false, 'hm']);
      }));

    test('of two cascades into one field the one that comes first stands, whatever else changes', () =>
      withRules([HEARD, TITLE_HEARD], async ({ save, at }) => {
        changesOf(await save(edit('customer', bo, { vip: true })));
        expect(await at(stool, 'heard')).toBe('Bo');
        changesOf(await save(edit('customer', bo, { vip: false, word: 'well' })));
        expect(await at(stool, 'heard')).toBe('well');
      }));

    test('of several that cascade to one, kept in step, the one that leads does; where there is none people may', () =>
      withRules([LONGEST], async ({ save, at }) => {
        expect([await at(ada, 'word'), await at(bo, 'word')]).toEqual(['Bench', 'Stool']);
        changesOf(await save(edit('job', shelf, { hours: decimal(9) })));
        expect(await at(ada, 'word')).toBe('Shelf');
        expect(refused(await save(edit('customer', ada, { word: 'mine' })))).toEqual(['edit.kept']);
        changesOf(await save(edit('job', shelf, { customer: bo })));
        expect([await at(ada, 'word'), await at(bo, 'word')]).toEqual(['Bench', 'Shelf']);
        changesOf(await save({ kind: 'delete', type: 'job', id: bench }));
        expect(await at(ada, 'word')).toBe('Bench');
        changesOf(await save(edit('customer', ada, { word: 'mine' })));
        expect(await at(ada, 'word')).toBe('mine');
      }));

    test('what is entered where a value comes down all the way is refused by what it comes to in the same save', () =>
      withRules([VIP_DOWN], async ({ save, at }) => {
        const [ann, zed] = [uuid('32'), uuid('33')];
        changesOf(await save(create('customer', ann, { title: 'Ann', under: ada, vip: true })));
        const moved = edit('customer', ann, { under: bo });
        const entered = (vip: boolean) => create('customer', zed, { title: 'Zed', under: ann, vip });
        expect(refused(await save(moved, entered(true)))).toEqual(['edit.kept']);
        changesOf(await save(moved, entered(false)));
        expect([await at(ann, 'vip'), await at(zed, 'vip')]).toEqual([false, false]);
      }));

    test('what comes out of the bin has become what it is', () =>
      withRules([LATE], async ({ save, at }) => {
        changesOf(await save(edit('job', bench, { stage: 'late' })));
        expect(await at(ada, 'word')).toBe('Bench');
        changesOf(
          await save(edit('customer', ada, { word: 'mine' }), { kind: 'delete', type: 'job', id: bench }),
        );
        changesOf(await save({ kind: 'restore', type: 'job', id: bench }));
        expect(await at(ada, 'word')).toBe('Bench');
      }));

    test('what comes out of the bin is neither made nor changed: nothing is started on it, and nothing reacts', () =>
      withRules([GREETING, MOOD], async ({ save, at }) => {
        changesOf(await save(edit('job', bench, { stage: 'late' })));
        changesOf(await save(edit('customer', ada, { mood: 'calm' })));
        changesOf(await save({ kind: 'delete', type: 'job', id: bench }));
        changesOf(await save({ kind: 'restore', type: 'job', id: bench }));
        expect(await at(bench, 'greeting')).toBeNull();
        changesOf(await save(edit('customer', ada, { mood: 'calm' })));
        changesOf(await save({ kind: 'delete', type: 'customer', id: ada }));
        changesOf(await save({ kind: 'restore', type: 'customer', id: ada }));
        expect([await at(ada, 'mood'), await at(bench, 'greeting')]).toEqual(['calm', null]);
        // The customer isn't what came back here.
        changesOf(await save({ kind: 'delete', type: 'job', id: bench }));
        changesOf(await save({ kind: 'restore', type: 'job', id: bench }));
        expect(await at(ada, 'mood')).toBe('cross');
      }));

    test('what comes out of the bin while what it named lies there names nothing, also once that is back', () =>
      withRules([HOURS], async ({ save, at }) => {
        changesOf(await save(edit('job', shelf, { tool: saw }), edit('job', bench, { tool: saw })));
        changesOf(await save({ kind: 'delete', type: 'job', id: shelf }));
        changesOf(await save({ kind: 'delete', type: 'tool', id: saw }));
        changesOf(await save({ kind: 'restore', type: 'job', id: shelf }));
        changesOf(await save({ kind: 'restore', type: 'tool', id: saw }));
        expect([await at(shelf, 'tool'), await at(bench, 'tool')]).toEqual([null, saw]);
      }));

    test('rules in a circle go on until nothing follows', () =>
      withRules([HEARD, BACK], async ({ save, at }) => {
        changesOf(await save(edit('job', bench, { heard: 'psst' })));
        expect([await at(ada, 'word'), await at(shelf, 'heard')]).toEqual(['psst', 'psst']);
        expect([await at(bo, 'word'), await at(stool, 'heard')]).toEqual(['hm', null]);
      }));

    test('an average over any depth follows what lies there, wherever it is moved', () =>
      withRules([BENEATH], async ({ save, at }) => {
        const [between, low] = [uuid('33'), uuid('34')];
        changesOf(
          await save(
            create('customer', between, { under: ada }),
            create('customer', low, { under: between }),
            edit('job', stool, { customer: low }),
            edit('job', shelf, { customer: between }),
          ),
        );
        expect([await at(ada, 'hours'), await at(between, 'hours')]).toEqual([decimal('1.5'), decimal(1)]);
        changesOf(await save(edit('job', stool, { hours: decimal(4) })));
        expect([await at(ada, 'hours'), await at(between, 'hours')]).toEqual([decimal(3), decimal(4)]);
        changesOf(await save(edit('customer', low, { under: bo })));
        expect([await at(ada, 'hours'), await at(bo, 'hours')]).toEqual([decimal(2), decimal(4)]);
        expect(await at(between, 'hours')).toBeNull();
      }));

    test('a link rule fills what is empty with the record that has the same, whatever its case', () =>
      withRules([TOOL], async ({ save, at }) => {
        changesOf(await save(edit('job', shelf, { code: 'saw' })));
        expect(await at(shelf, 'tool')).toBe(saw);
        changesOf(await save(edit('job', shelf, { tool: file })));
        expect(await at(shelf, 'tool')).toBe(file);
        changesOf(await save({ kind: 'delete', type: 'tool', id: file }));
        expect(await at(shelf, 'tool')).toBe(saw);
        changesOf(await save(edit('job', shelf, { code: 'drill', tool: null })));
        expect(await at(shelf, 'tool')).toBeNull();
      }));

    test('a create rule makes one for each, follows what it was made for, and takes it back', () =>
      withRules([TICKET], async ({ save, tickets }) => {
        changesOf(await save(edit('job', bench, { stage: 'late' })));
        expect(await tickets(bench)).toMatchObject([{ values: { title: 'Bench', hours: decimal(5) } }]);
        changesOf(await save(edit('job', bench, { hours: decimal(6) })));
        expect(await tickets(bench)).toMatchObject([{ values: { hours: decimal(6) } }]);
        changesOf(await save(edit('job', bench, { stage: 'done' })));
        expect(await tickets(bench)).toEqual([]);
      }));

    test('in a pilot a rule keeps its field on the chosen records, and elsewhere people may', () =>
      withRules([{ definition: HOURS, pilot: { kind: 'records', ids: [bo] } }], async ({ save, at }) => {
        changesOf(await save(edit('customer', ada, { hours: decimal(40) })));
        changesOf(await save(edit('job', stool, { stage: 'done' }), edit('job', bench, { stage: 'done' })));
        expect([await at(ada, 'hours'), await at(bo, 'hours')]).toEqual([decimal(40), decimal(1)]);
        expect(refused(await save(edit('customer', bo, { hours: decimal(9) })))).toEqual(['edit.kept']);
      }));

    test('one save goes through all of them in order, each once', () =>
      withRules([HOURS, MOOD, VIP, BILLED, GREETING, HEARD, TOOL, TICKET], async ({ save, at, tickets }) => {
        const made = uuid('32');
        const changes = changesOf(
          await save(
            edit('customer', bo, { vip: true, word: 'now' }),
            create('job', made, {
              title: 'Chair',
              customer: bo,
              code: 'File',
              stage: 'late',
              hours: decimal(4),
            }),
            edit('job', stool, { stage: 'done' }),
          ),
        );
        expect([await at(bo, 'hours'), await at(bo, 'mood')]).toEqual([decimal(1), 'cross']);
        expect([await at(made, 'vip'), await at(made, 'billed'), await at(made, 'tool')]).toEqual([
          ...[true, decimal(8), file],
        ]);
        expect([await at(made, 'greeting'), await at(stool, 'heard')]).toEqual(['now', 'now']);
        expect(await tickets(made)).toMatchObject([{ values: { title: 'Chair', hours: decimal(4) } }]);
        if (harness.tellsNumbers) return;
        const keys = changes.map(({ id, field }) => `${id} ${field}`);
        expect(new Set(keys).size).toBe(keys.length);
      }));
  });
}
